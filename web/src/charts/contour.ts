import { contours } from 'd3-contour'

/** The lines along which a map passes a level: points of both axes' values, one list a line. */
export function contourLines(values: (number | null)[], along: number[], across: number[], level: number): [number, number][][] {
  const known = values.map((value) => value ?? NaN)
  const found = contours().size([along.length, across.length]).contour(known, level)
  // It walks about areas: what lies on the edge of the map is no contour.
  const onEdge = ([x, y]: [number, number]) => x < 0.5 || y < 0.5 || x > along.length - 0.5 || y > across.length - 0.5
  const lines: [number, number][][] = []
  for (const ring of found.coordinates.flat() as [number, number][][]) {
    let line: [number, number][] = []
    for (const point of ring) {
      if (onEdge(point)) {
        lines.push(line)
        line = []
      } else {
        line.push([valueAt(along, point[0] - 0.5), valueAt(across, point[1] - 0.5)])
      }
    }
    lines.push(line)
  }
  return lines.filter((line) => line.length > 1)
}

/** What an axis has between its values, by how many of them lie before. */
function valueAt(values: number[], place: number): number {
  const k = Math.min(Math.floor(place), values.length - 2)
  const [a = NaN, b = NaN] = [values[k], values[k + 1]]
  return a + (b - a) * (place - k)
}

/** Where a cell about each of some values in order begins, and where the last one ends: halfway to its neighbours. */
export function edgesOf(values: number[], logarithmic: boolean): number[] {
  const middle = (a: number, b: number) => (logarithmic ? Math.sign(a) * Math.sqrt(a * b) : 0.5 * (a + b))
  const inner = values.slice(1).map((value, k) => middle(values[k] ?? value, value))
  return [values[0] ?? 0, ...inner, values.at(-1) ?? 1]
}

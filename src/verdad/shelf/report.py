"""A model's report: where it came from, its pins, the bench's figures beside the data sheet's; as text and as CSV."""

from __future__ import annotations

import csv
import io

from verdad.db.tables import ModelRow, QualificationRow
from verdad.shelf.qualification import badge, figures_of, judged, lines_of
from verdad.shelf.store import model_of
from verdad_core.qualification.bench import figure_types
from verdad_core.qualification.conditions import CONDITIONS, conditions_for
from verdad_core.qualification.datasheet import written
from verdad_core.units import format_value


def report(model: ModelRow, qualification: QualificationRow | None) -> dict[str, str]:
    """Texts by file name; figures only from a qualification that is handed in."""
    types = figure_types(model.kind)
    figures = figures_of(qualification) if qualification else []
    verdicts = {judgement.figure: judgement for judgement in judged(model, figures)}
    sheet = {line.figure: line for line in lines_of(model)}
    table = []
    for figure in figures:
        kind, line, verdict = types[figure.key], sheet.get(figure.key), verdicts.get(figure.key)
        shown = format_value(figure.value, kind.unit) if figure.value is not None else str(figure.standing)
        table.append(
            [kind.title, shown, written(line, kind) if line else "", str(verdict.agreement) if verdict else "",
             figure.remark or (verdict.reason if verdict else "")]
        )  # fmt: skip
    return {
        "report.md": _text(model, qualification, table),
        "figures.csv": _csv(table),
        "data-sheet.csv": _sheet(model),
    }


def _text(model: ModelRow, qualification: QualificationRow | None, table: list[list[str]]) -> str:
    bundle = model.bundle
    lines = [
        f"# {model.name.upper()}", "", f"{model.kind}; {badge(model, qualification).text}", "",
        f"- source: {bundle.source}", f"- link: {bundle.link or 'none'}",
        f"- obtained: {bundle.obtained_on}" + (f" by {bundle.obtained_by}" if bundle.obtained_by else ""),
        f"- file: {model.file}, SHA-256 of all files {bundle.sha256}", "", "## Pins", "",
    ]  # fmt: skip
    lines += [f"- node {node}: {role}" for node, role in zip(model_of(model).nodes(), model.roles, strict=True)]
    if bundle.terms:
        lines += ["", "## Terms of use", "", bundle.terms]
    lines += ["", "## Bench", ""]
    if not table:
        return "\n".join([*lines, "Not measured as it now is.", ""])
    values = conditions_for(model.kind, model.conditions)
    lines += [
        f"- {condition.title}: {format_value(values[condition.key], condition.unit)}"
        for condition in CONDITIONS.get(model.kind, ())
    ]
    lines += ["", "| figure | bench | data sheet | verdict | remark |", "|---|---|---|---|---|"]
    lines += ["| " + " | ".join(cell.replace("|", "/") for cell in row) + " |" for row in table]
    details = qualification.details if qualification else {}
    lines += ["", *(f"- {finding['severity']}: {finding['message']}" for finding in details.get("findings", []))]
    return "\n".join([*lines, ""])


def _csv(table: list[list[str]]) -> str:
    text = io.StringIO()
    csv.writer(text).writerows([["Figure", "Bench", "Data sheet", "Verdict", "Remark"], *table])
    return text.getvalue()


def _sheet(model: ModelRow) -> str:
    types = figure_types(model.kind)
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(["Figure", "Min", "Typ", "Max", "Unit", "Conditions"])
    for line in lines_of(model):
        numbers = ["" if value is None else f"{value:g}" for value in (line.least, line.typical, line.most)]
        writer.writerow([types[line.figure].title, *numbers, types[line.figure].unit, line.conditions])
    return text.getvalue()

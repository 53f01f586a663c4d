import 'vuetify/styles'
import { createVuetify, type ThemeDefinition } from 'vuetify'
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg'

const light: ThemeDefinition = {
  dark: false,
  colors: { background: '#fbfaf5', surface: '#ffffff', primary: '#1d3a63', secondary: '#b4481e', error: '#b3261e', warning: '#8a5a00', info: '#1d3a63' },
}
const dark: ThemeDefinition = {
  dark: true,
  colors: { background: '#14181e', surface: '#1b2129', primary: '#9cc1f0', secondary: '#f0905f', error: '#ff8a80', warning: '#e5b04a', info: '#9cc1f0' },
}

export const vuetify = createVuetify({
  icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
  theme: { defaultTheme: 'system', themes: { light, dark } },
  defaults: {
    global: { ripple: false },
    VBtn: { variant: 'outlined', rounded: 'sm', color: 'primary', class: 'text-none' },
    VTextField: { variant: 'outlined', density: 'compact', color: 'primary' },
    VTextarea: { variant: 'outlined', density: 'compact', color: 'primary' },
    VSelect: { variant: 'outlined', density: 'compact', color: 'primary' },
    VAutocomplete: { variant: 'outlined', density: 'compact', color: 'primary' },
  },
})

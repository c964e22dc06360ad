/** PrimeVue in our colours. */
import { definePreset } from '@primeuix/themes'
import Aura from '@primeuix/themes/aura'

const petrol = {
  50: '#e3eff0',
  100: '#cfe3e5',
  200: '#a5cad0',
  300: '#75adb6',
  400: '#3f8996',
  500: '#0e5a68',
  600: '#0c4f5c',
  700: '#0a434e',
  800: '#083740',
  900: '#062b32',
  950: '#041d22',
}

export const preset = definePreset(Aura, {
  primitive: { borderRadius: { xs: '2px', sm: '4px', md: '4px', lg: '4px', xl: '6px' } },
  components: {
    dialog: {
      header: { padding: '12px 16px' },
      title: { fontSize: '16px', fontWeight: '600' },
      content: { padding: '0 16px 16px' },
      footer: { padding: '8px 16px 14px' },
    },
    button: { root: { iconOnlyWidth: '30px' } },
  },
  semantic: {
    primary: petrol,
    colorScheme: {
      light: {
        surface: {
          0: '#ffffff',
          50: '#fbf8f1',
          100: '#f3eee2',
          200: '#ded7c8',
          300: '#cbc2af',
          400: '#a39b8b',
          500: '#7a7f80',
          600: '#5e6b73',
          700: '#37444d',
          800: '#1d2a33',
          900: '#141d24',
          950: '#0b1115',
        },
        text: { color: '#1d2a33', mutedColor: '#5e6b73' },
      },
    },
  },
})

import '@fontsource-variable/ibm-plex-sans/wght.css'
import '@fontsource/barlow-semi-condensed/latin-500.css'
import '@fontsource/barlow-semi-condensed/latin-600.css'
import '@fontsource/ibm-plex-mono/latin-400.css'
import './theme/tokens.css'
import { VueQueryPlugin } from '@tanstack/vue-query'
import { createPinia } from 'pinia'
import PrimeVue from 'primevue/config'
import { createApp } from 'vue'
import App from './App.vue'
import { router } from './router'
import { preset } from './theme/preset'

// shallow: what the server told is never changed in place, so no proxy stands around every number
const queries = { retry: 1, refetchOnWindowFocus: false, gcTime: 60_000, shallow: true }

createApp(App)
  .use(createPinia())
  .use(router)
  .use(VueQueryPlugin, { queryClientConfig: { defaultOptions: { queries } } })
  .use(PrimeVue, { theme: { preset, options: { darkModeSelector: '.never', cssLayer: false } } })
  .mount('#app')

import '@fontsource/barlow/400.css'
import '@fontsource/barlow/500.css'
import '@fontsource/barlow/600.css'
import '@fontsource/barlow-condensed/500.css'
import '@fontsource/barlow-condensed/600.css'
import './style.css'
import { createPinia } from 'pinia'
import { createApp } from 'vue'
import App from './App.vue'
import { firstLanguage, i18n, speak } from './lib/words'
import { register } from './lib/pwa'
import { router } from './router'
import { watchTrouble } from './lib/trouble'

const app = createApp(App)
watchTrouble(app)
app.use(createPinia()).use(i18n).use(router)
// Where the words of the language cannot be had, English is better than nothing.
void speak(firstLanguage())
  .catch(() => {})
  .then(() => app.mount('#app'))
register()

import '@fontsource-variable/source-sans-3/wght.css'
import 'bootstrap/dist/css/bootstrap.min.css'
import 'bootstrap-vue-next/dist/bootstrap-vue-next.css'
import './shell/theme.css'
import { createPinia } from 'pinia'
import { createApp } from 'vue'
import App from './shell/App.vue'
import { router } from './shell/router'

createApp(App).use(createPinia()).use(router).mount('#app')

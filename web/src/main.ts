import '@fontsource-variable/atkinson-hyperlegible-next/wght.css'
import '@fontsource-variable/atkinson-hyperlegible-mono/wght.css'
import './theme/tokens.css'
import './theme/base.css'
import './theme/element.css'
import './theme/narrow.css'
import { VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'
import App from './App.vue'
import { queryClient } from './api/queries'
import './composables/useSettings'
import { router } from './router'

createApp(App).use(router).use(VueQueryPlugin, { queryClient }).mount('#app')

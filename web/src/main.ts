import '@fontsource/barlow/latin-400.css'
import '@fontsource/barlow/latin-500.css'
import '@fontsource/barlow/latin-600.css'
import '@fontsource/barlow-condensed/latin-400.css'
import '@fontsource/barlow-condensed/latin-500.css'
import '@fontsource/barlow-condensed/latin-600.css'
import '@fontsource/ibm-plex-mono/latin-400.css'
import '@fontsource/ibm-plex-mono/latin-600.css'
import 'element-plus/theme-chalk/base.css'
import 'element-plus/theme-chalk/el-select.css'
import 'element-plus/theme-chalk/el-option.css'
import 'element-plus/theme-chalk/el-popper.css'
import 'element-plus/theme-chalk/el-scrollbar.css'
import 'element-plus/theme-chalk/el-tag.css'
import 'element-plus/theme-chalk/el-dropdown.css'
import 'element-plus/theme-chalk/el-message.css'
import '@/style/base.css'

import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createPinia } from 'pinia'
import { createApp } from 'vue'

import { Problem } from '@/api/problem'
import App from '@/App.vue'
import { router } from '@/router'

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      // The server is as a rule on this very machine: being offline says nothing about it.
      networkMode: 'always',
      staleTime: 2000,
      // Answers are replaced whole; watching every number in them made large drawings take seconds.
      shallow: true,
      // A problem is the server's answer; only a silent server is worth asking again.
      retry: (count, error) => !(error instanceof Problem && error.status > 0) && count < 5,
    },
  },
})

createApp(App).use(createPinia()).use(router).use(VueQueryPlugin, { queryClient: queries }).mount('#app')

// A page that the browser kept, and shows again on going back, knows nothing of what was done since.
window.addEventListener('pageshow', (event) => {
  if (event.persisted) void queries.invalidateQueries()
})

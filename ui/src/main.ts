import '@fontsource/atkinson-hyperlegible-next/400.css'
import '@fontsource/atkinson-hyperlegible-next/600.css'
import '@fontsource/jetbrains-mono/400.css'
import '@fontsource/jetbrains-mono/400-italic.css'
import '@fontsource/stix-two-text/400.css'
import '@fontsource/stix-two-text/400-italic.css'
import '@fontsource/stix-two-text/600.css'
import 'katex/dist/katex.min.css'
import './app.css'
import { mount } from 'svelte'
import App from './App.svelte'
import { catchAll } from './lib/faults'
import { theme } from './lib/theme.svelte'

catchAll()
theme.apply()
const target = document.getElementById('app')
if (!target) throw new Error('the page has no place for the application')
mount(App, { target })

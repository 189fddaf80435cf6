import { api, Refusal } from '../api/client'
import { notices } from './notices.svelte'

/** What a person is told when a program of ours fails: its own words are for the log. */
export const OURS =
    'Something on this page failed, and that is our fault. Your script is safe; load the page anew and go on.'
const MOST_TOLD = 10 // of one page, to the log

let told = 0

/** A sentence for people about something that was thrown. Refusals are written for them; anything else is a fault of ours. */
export function wordsOf(reason: unknown): string {
    if (reason instanceof Refusal) return reason.message
    report(reason)
    return OURS
}

/** The fault goes to the server's log. */
function report(reason: unknown): void {
    console.error(reason)
    if (++told > MOST_TOLD) return
    const text = reason instanceof Error ? `${reason.name}: ${reason.message}\n${reason.stack ?? ''}` : String(reason)
    api.fault(text.slice(0, 4000), location.pathname).catch(() => undefined)
}

/** What nobody caught is told in the same words. */
export function catchAll(): void {
    window.addEventListener('error', (event) => {
        // A resource that did not load, or the browser's note about its own layout, is no fault of the program.
        if (event.error) notices.say(wordsOf(event.error))
    })
    window.addEventListener('unhandledrejection', (event) => notices.say(wordsOf(event.reason)))
}

import { notices } from './notices.svelte'

/** Put a text on the clipboard. Where the browser does not let it be written, that is said. */
export async function copied(text: string): Promise<boolean> {
    try {
        await navigator.clipboard.writeText(text)
        return true
    } catch {
        notices.say('The browser does not let the clipboard be written here.')
        return false
    }
}

import katex from 'katex'

/** Put mathematics into an element. Nodes are made one by one, never as markup: the content policy allows no inline styles. */
export function typeset(element: HTMLElement, tex: string, displayMode = false): void {
    try {
        katex.render(tex, element, { displayMode, throwOnError: true, trust: false, strict: 'ignore', maxSize: 20 })
    } catch {
        element.textContent = tex
    }
}

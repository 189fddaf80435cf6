import katex from 'katex'

/** Put mathematics into an element. Nodes are made one by one, never as markup: the content policy allows no inline styles. */
export function typeset(element: HTMLElement, tex: string, displayMode = false): void {
    try {
        katex.render(tex, element, { displayMode, throwOnError: true, trust: false, strict: 'ignore', maxSize: 20 })
    } catch {
        element.textContent = tex
    }
}

/** A formula as MathML, for other programs. */
export function mathml(tex: string): string {
    const page = katex.renderToString(tex, { output: 'mathml', throwOnError: false, trust: false, strict: 'ignore' })
    return /<math[\s\S]*<\/math>/.exec(page)?.[0] ?? page
}

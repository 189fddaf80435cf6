/** Parts of a script: its outline, and what can be run beside their titles. */

import { RangeSetBuilder, StateField, type Extension, type Text } from '@codemirror/state'
import { Decoration, EditorView, WidgetType, type DecorationSet } from '@codemirror/view'

export interface PartOf {
    title: string
    line: number
    /** The last line of the part. */
    end: number
}

export function partsOf(script: string): PartOf[] {
    const found: PartOf[] = []
    const lines = script.split('\n')
    lines.forEach((line, index) => {
        const title = /^part\s+"([^"]*)"/.exec(line)?.[1]
        if (title === undefined) return
        const last = found.at(-1)
        if (last) last.end = index
        found.push({ title, line: index + 1, end: lines.length })
    })
    return found
}

interface PartHandlers {
    run: (title: string, onwards: boolean) => void
}

class PartRun extends WidgetType {
    readonly title: string
    readonly last: boolean
    readonly handlers: PartHandlers

    constructor(title: string, last: boolean, handlers: PartHandlers) {
        super()
        this.title = title
        this.last = last
        this.handlers = handlers
    }

    override eq(other: PartRun): boolean {
        return other.title === this.title && other.last === this.last
    }

    override toDOM(): HTMLElement {
        const room = document.createElement('span')
        room.className = 'cm-part-run'
        const button = (text: string, onwards: boolean) => {
            const made = document.createElement('button')
            made.textContent = text
            made.addEventListener('mousedown', (event) => event.preventDefault())
            made.addEventListener('click', () => this.handlers.run(this.title, onwards))
            return made
        }
        room.append(button('run this part', false))
        if (!this.last) room.append(button('run from here', true))
        return room
    }

    override ignoreEvent(): boolean {
        return true
    }
}

export function partButtons(handlers: PartHandlers): Extension {
    const build = (doc: Text): DecorationSet => {
        const builder = new RangeSetBuilder<Decoration>()
        const parts = partsOf(doc.toString())
        for (const part of parts) {
            const end = doc.line(part.line).to
            const widget = new PartRun(part.title, part === parts.at(-1), handlers)
            builder.add(end, end, Decoration.widget({ widget, side: 1 }))
        }
        return builder.finish()
    }
    return StateField.define<DecorationSet>({
        create: (state) => build(state.doc),
        update: (value, transaction) => (transaction.docChanged ? build(transaction.state.doc) : value),
        provide: (field) => EditorView.decorations.from(field)
    })
}

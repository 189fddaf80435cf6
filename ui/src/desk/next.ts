/** At an empty line: what may come next in this script, to be put there by a click. */

import { StateEffect, StateField, type EditorState, type Extension } from '@codemirror/state'
import { Decoration, EditorView, ViewPlugin, WidgetType, type DecorationSet, type ViewUpdate } from '@codemirror/view'

const PAUSE_MS = 600

interface Offered {
    at: number
    lines: string[]
}

const offer = StateEffect.define<Offered | undefined>()

/** The start of the line that the cursor stands in, if it is empty, unindented, and there is a script around it. */
export function emptyLine(state: EditorState): number | undefined {
    const { main } = state.selection
    if (!main.empty) return undefined
    const line = state.doc.lineAt(main.head)
    return line.length === 0 && state.doc.toString().trim() ? line.from : undefined
}

class Steps extends WidgetType {
    readonly lines: string[]

    constructor(lines: string[]) {
        super()
        this.lines = lines
    }

    override eq(other: Steps): boolean {
        return other.lines.join('\n') === this.lines.join('\n')
    }

    override toDOM(view: EditorView): HTMLElement {
        const room = document.createElement('div')
        room.className = 'cm-next'
        room.append('What now?')
        for (const line of this.lines) {
            const button = document.createElement('button')
            button.className = 'cm-fix'
            button.textContent = line
            button.title = 'Write this line'
            button.addEventListener('mousedown', (event) => event.preventDefault())
            button.addEventListener('click', () => {
                const from = emptyLine(view.state)
                if (from === undefined) return
                const insert = `${line}\n`
                view.dispatch({
                    changes: { from, insert },
                    selection: { anchor: from + insert.length },
                    userEvent: 'input.ink'
                })
                view.focus()
            })
            room.append(button)
        }
        return room
    }

    override ignoreEvent(): boolean {
        return true
    }

    override get estimatedHeight(): number {
        return 32
    }
}

const shown = StateField.define<DecorationSet>({
    create: () => Decoration.none,
    update(value, transaction) {
        for (const effect of transaction.effects) {
            if (!effect.is(offer)) continue
            const steps = effect.value
            if (!steps?.lines.length || emptyLine(transaction.state) !== steps.at) return Decoration.none
            const widget = Decoration.widget({ widget: new Steps(steps.lines), side: 3, block: true })
            return Decoration.set([widget.range(steps.at)])
        }
        return transaction.docChanged || transaction.selection ? Decoration.none : value
    },
    provide: (field) => EditorView.decorations.from(field)
})

/** `ask` gives the lines for a script; `wanted` says whether they are to be offered at all. */
export function whatNow(ask: (script: string) => Promise<string[]>, wanted: () => boolean): Extension {
    const watch = ViewPlugin.fromClass(
        class {
            timer: ReturnType<typeof setTimeout> | undefined
            readonly view: EditorView

            constructor(view: EditorView) {
                this.view = view
            }

            update(update: ViewUpdate) {
                if (!update.docChanged && !update.selectionSet && !update.focusChanged) return
                clearTimeout(this.timer)
                if (!wanted() || !update.view.hasFocus || emptyLine(update.state) === undefined) return
                this.timer = setTimeout(() => void this.look(), PAUSE_MS)
            }

            async look() {
                const { state } = this.view
                const at = emptyLine(state)
                if (at === undefined) return
                const lines = await ask(state.doc.toString()).catch(() => [])
                if (this.view.state.doc !== state.doc || emptyLine(this.view.state) !== at) return
                this.view.dispatch({ effects: offer.of({ at, lines }) })
            }

            destroy() {
                clearTimeout(this.timer)
            }
        }
    )
    return [shown, watch]
}

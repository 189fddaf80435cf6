/** Stop marks in the margin, each with a condition if wanted, and the line at which a walk stands. */

import { RangeSet, StateEffect, StateField, type EditorState, type Extension } from '@codemirror/state'
import {
    Decoration,
    EditorView,
    GutterMarker,
    WidgetType,
    gutterLineClass,
    lineNumbers,
    type DecorationSet
} from '@codemirror/view'

export interface StopMark {
    line: number
    condition: string
}

interface Stop {
    /** Start of its line. */
    at: number
    condition: string
    open: boolean
}

const toggle = StateEffect.define<number>({ map: (at, changes) => changes.mapPos(at) })
const change = StateEffect.define<{ at: number; condition?: string; open?: boolean; remove?: boolean }>()
export const walkLine = StateEffect.define<number | undefined>()

const stops = StateField.define<Stop[]>({
    create: () => [],
    update(value, transaction) {
        let next = value
        if (transaction.docChanged) {
            const { doc } = transaction.state
            const moved = value.map((s) => ({ ...s, at: doc.lineAt(transaction.changes.mapPos(s.at, 1)).from }))
            next = moved.filter((s, i) => moved.findIndex((o) => o.at === s.at) === i)
        }
        for (const effect of transaction.effects) {
            if (effect.is(toggle)) {
                const known = next.find((s) => s.at === effect.value)
                next = known
                    ? next.map((s) => (s === known ? { ...s, open: !s.open } : { ...s, open: false }))
                    : [...next.map((s) => ({ ...s, open: false })), { at: effect.value, condition: '', open: true }]
            } else if (effect.is(change)) {
                const { at, remove, ...rest } = effect.value
                next = remove ? next.filter((s) => s.at !== at) : next.map((s) => (s.at === at ? { ...s, ...rest } : s))
            }
        }
        return next
    },
    provide: (field) => [
        EditorView.decorations.from(field, (value) =>
            Decoration.set(
                value
                    .filter((s) => s.open)
                    .map((s) =>
                        Decoration.widget({ widget: new Condition(s.at, s.condition), side: -1, block: true }).range(
                            s.at
                        )
                    ),
                true
            )
        ),
        gutterLineClass.from(field, (value) =>
            RangeSet.of(
                value.map((s) => (s.condition ? conditional : plain).range(s.at)),
                true
            )
        )
    ]
})

class LineMark extends GutterMarker {
    override readonly elementClass: string
    constructor(name: string) {
        super()
        this.elementClass = name
    }
}
const plain = new LineMark('cm-stop')
const conditional = new LineMark('cm-stop cm-stop-if')

class Condition extends WidgetType {
    readonly at: number
    readonly condition: string

    constructor(at: number, condition: string) {
        super()
        this.at = at
        this.condition = condition
    }

    override eq(other: Condition): boolean {
        return other.at === this.at
    }

    override toDOM(view: EditorView): HTMLElement {
        const room = document.createElement('div')
        room.className = 'cm-stop-room'
        const label = document.createElement('label')
        label.textContent = 'the walk stops here where '
        const input = document.createElement('input')
        input.value = this.condition
        input.placeholder = 'always, or k > 3'
        input.spellcheck = false
        label.append(input)
        // Taken out of the page with the cursor in it, the field says once more that it changed: too late to be told.
        let settled = false
        const tell = (more: { open?: boolean; remove?: boolean }) => {
            if (settled) return
            settled = more.open === false || more.remove === true
            view.dispatch({ effects: change.of({ at: this.at, condition: input.value.trim(), ...more }) })
        }
        input.addEventListener('change', () => tell({}))
        input.addEventListener('keydown', (event) => {
            if (event.key === 'Enter' || event.key === 'Escape') {
                event.preventDefault() // the script has the cursor next, and would take the key
                tell({ open: false })
                view.focus()
            }
        })
        room.append(
            label,
            button('done', () => tell({ open: false })),
            button('remove', () => tell({ remove: true }))
        )
        return room
    }

    override ignoreEvent(): boolean {
        return true
    }

    override get estimatedHeight(): number {
        return 32
    }
}

function button(text: string, work: () => void): HTMLElement {
    const made = document.createElement('button')
    made.className = 'cm-fix'
    made.textContent = text
    made.addEventListener('click', work)
    return made
}

const walkMark = Decoration.line({ class: 'cm-walk' })

const walking = StateField.define<DecorationSet>({
    create: () => Decoration.none,
    update(value, transaction) {
        for (const effect of transaction.effects) {
            if (!effect.is(walkLine)) continue
            const line = effect.value
            if (line === undefined || line > transaction.state.doc.lines) return Decoration.none
            return Decoration.set([walkMark.range(transaction.state.doc.line(line).from)])
        }
        return value.map(transaction.changes)
    },
    provide: (field) => EditorView.decorations.from(field)
})

export function stopsOf(state: EditorState): StopMark[] {
    return state.field(stops).map((s) => ({ line: state.doc.lineAt(s.at).number, condition: s.condition }))
}

/** Put a stop mark on the line of the cursor, or open the one that is there. */
export function toggleStop(view: EditorView): boolean {
    view.dispatch({ effects: toggle.of(view.state.doc.lineAt(view.state.selection.main.head).from) })
    // What is typed next is the condition.
    view.requestMeasure({ read: () => view.dom.querySelector<HTMLElement>('.cm-stop-room input')?.focus() })
    return true
}

/** Line numbers: a click on one puts a stop mark there. */
export function stopMarks(): Extension {
    return [
        stops,
        walking,
        lineNumbers({
            domEventHandlers: {
                mousedown(view, line) {
                    view.dispatch({ effects: toggle.of(line.from) })
                    return true
                }
            }
        })
    ]
}

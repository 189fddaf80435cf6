/** Tuned values: a slider under each `tune` line, and the writing of a new value into it. */

import { RangeSetBuilder, StateField, type EditorState, type Extension, type Text } from '@codemirror/state'
import { Decoration, EditorView, WidgetType, type DecorationSet } from '@codemirror/view'

export interface Tuned {
    name: string
    line: number
    value: number
    low: number
    high: number
    step: number
    /** Where the value stands in its line, in UTF-16 units. */
    from: number
    to: number
}

const NUMBER = String.raw`[-−]?\d+(?:\.\d+)?(?:[eE][+-]?\d+)?`
const TUNE = new RegExp(
    String.raw`^tune\s+([\p{L}][\p{L}\p{N}_]*)\s*=\s*(${NUMBER})(?:\s+\[[^\]]*\])?\s+from\s+(${NUMBER})\s+to\s+(${NUMBER})(?:\s+step\s+(${NUMBER}))?\s*(?:#.*)?$`,
    'u'
)

function number(text: string): number {
    return Number(text.replace('−', '-'))
}

/** The tuned values of a script whose ends are plain numbers. */
export function tunesOf(script: string): Tuned[] {
    const found: Tuned[] = []
    let start = 0
    for (const [index, line] of script.split('\n').entries()) {
        const match = TUNE.exec(line)
        const [, name, value, low, high, step] = match ?? []
        if (match && name && value && low && high && number(low) < number(high)) {
            const from = start + line.indexOf(value, line.indexOf('='))
            const span = number(high) - number(low)
            found.push({
                name,
                line: index + 1,
                value: number(value),
                low: number(low),
                high: number(high),
                step: step ? number(step) : 10 ** Math.floor(Math.log10(span / 150)),
                from,
                to: from + value.length
            })
        }
        start += line.length + 1
    }
    return found
}

/** A value as it is written: no more digits than the slider's step has. */
export function written(value: number, step: number): string {
    const digits = Math.max(0, Math.min(12, Math.ceil(-Math.log10(step) - 1e-9)))
    const text = value.toFixed(digits)
    return digits ? text.replace(/\.?0+$/, '') || '0' : text
}

/** The script with another value for a tuned name. */
export function inked(script: string, name: string, value: number): string {
    const tuned = tunesOf(script).find((t) => t.name === name)
    if (!tuned) return script
    return script.slice(0, tuned.from) + written(value, tuned.step) + script.slice(tuned.to)
}

export interface TuneHandlers {
    /** While the slider moves. */
    moved: (name: string, value: number) => void
}

class Slider extends WidgetType {
    readonly tuned: Tuned
    readonly handlers: TuneHandlers

    constructor(tuned: Tuned, handlers: TuneHandlers) {
        super()
        this.tuned = tuned
        this.handlers = handlers
    }

    override eq(other: Slider): boolean {
        const [a, b] = [this.tuned, other.tuned]
        return a.name === b.name && a.value === b.value && a.low === b.low && a.high === b.high && a.step === b.step
    }

    override updateDOM(dom: HTMLElement): boolean {
        const input = dom.querySelector('input')
        if (!input || input.dataset.name !== this.tuned.name) return false
        input.min = String(this.tuned.low)
        input.max = String(this.tuned.high)
        input.step = String(this.tuned.step)
        if (document.activeElement !== input || Number(input.value) !== this.tuned.value)
            input.value = String(this.tuned.value)
        return true
    }

    override toDOM(view: EditorView): HTMLElement {
        const { name, value, low, high, step } = this.tuned
        const room = document.createElement('div')
        room.className = 'cm-tune'
        const input = document.createElement('input')
        Object.assign(input, { type: 'range', min: String(low), max: String(high), step: String(step) })
        input.value = String(value)
        input.dataset.name = name
        input.setAttribute('aria-label', `${name}, from ${low} to ${high}`)
        const ends = [low, high].map((end) => {
            const said = document.createElement('span')
            said.textContent = String(end).replace('-', '−')
            return said
        })
        input.addEventListener('input', () => this.handlers.moved(name, Number(input.value)))
        input.addEventListener('change', () => writeTuned(view, name, Number(input.value)))
        room.append(ends[0] as HTMLElement, input, ends[1] as HTMLElement)
        return room
    }

    override ignoreEvent(): boolean {
        return true
    }

    override get estimatedHeight(): number {
        return 26
    }
}

/** Write a tuned value into its line, as one step that can be taken back. */
export function writeTuned(view: EditorView, name: string, value: number): void {
    const tuned = tunesOf(view.state.doc.toString()).find((t) => t.name === name)
    if (!tuned) return
    const insert = written(value, tuned.step)
    if (view.state.sliceDoc(tuned.from, tuned.to) === insert) return
    view.dispatch({ changes: { from: tuned.from, to: tuned.to, insert }, userEvent: 'input.tune' })
}

export function tuneSliders(handlers: TuneHandlers): Extension {
    const build = (doc: Text): DecorationSet => {
        const builder = new RangeSetBuilder<Decoration>()
        for (const tuned of tunesOf(doc.toString())) {
            const end = doc.line(tuned.line).to
            builder.add(end, end, Decoration.widget({ widget: new Slider(tuned, handlers), side: 1, block: true }))
        }
        return builder.finish()
    }
    return StateField.define<DecorationSet>({
        create: (state: EditorState) => build(state.doc),
        update: (value, transaction) => (transaction.docChanged ? build(transaction.state.doc) : value),
        provide: (field) => EditorView.decorations.from(field)
    })
}

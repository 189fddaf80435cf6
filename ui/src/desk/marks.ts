/** What a run left in the editor: numbers in the margin, formulas and messages under lines, underlined mistakes. */

import { copied } from '../lib/clipboard'
import {
    RangeSet,
    StateEffect,
    StateField,
    type ChangeDesc,
    type EditorState,
    type Range,
    type Text,
    type Transaction
} from '@codemirror/state'
import {
    Decoration,
    EditorView,
    GutterMarker,
    ViewPlugin,
    WidgetType,
    gutter,
    type DecorationSet,
    type ViewUpdate
} from '@codemirror/view'
import type { Evidence, Fix, Message, Reading } from '../lib/record'
import { mathml, typeset } from '../lib/typeset'
import { changeOf, spanOf } from './places'

export interface FoundHere {
    number: number
    line: number
    evidence: Evidence
}

export interface RunMarks {
    findings: FoundHere[]
    readings: Reading[]
    messages: Message[]
}

interface Handlers {
    choose: (number: number) => void
}

/** What is not said while somebody is typing: nothing of the line, nothing of the word at whose end the cursor stands, or all is said. */
type Quiet = 'line' | 'word' | 'none'

interface Marks {
    numbers: RangeSet<FindingMarker>
    drawn: DecorationSet
    /** All changes since the run, so that its fixes still find their places. */
    since: ChangeDesc | undefined
    before: Text
    run: RunMarks
    quiet: Quiet
}

export const setMarks = StateEffect.define<RunMarks>()
const rested = StateEffect.define<null>()
const REST_MS = 1500
export const lightLine = StateEffect.define<number | undefined>()

export const marks = StateField.define<Marks>({
    create: (state) => built(state, { findings: [], readings: [], messages: [] }, 'none'),
    update(value, transaction) {
        const quiet = quietAfter(value.quiet, transaction)
        for (const effect of transaction.effects)
            if (effect.is(setMarks)) return built(transaction.state, effect.value, quiet)
        if (!transaction.docChanged)
            return quiet === value.quiet
                ? value
                : value.since
                  ? { ...value, quiet }
                  : built(transaction.state, value.run, quiet)
        const touched = (from: number, to: number) => transaction.changes.touchesRange(from, to)
        return {
            numbers: value.numbers.map(transaction.changes),
            // What is said of a line that is being changed is out of date.
            drawn: value.drawn
                .update({
                    filter: (from, to, d) => {
                        const line = transaction.startState.doc.lineAt(from)
                        return !touched(d.spec.block ? line.from : from, Math.max(to, d.spec.block ? line.to : to))
                    }
                })
                .map(transaction.changes),
            since: value.since ? value.since.composeDesc(transaction.changes) : transaction.changes.desc,
            before: value.before,
            run: value.run,
            quiet
        }
    },
    provide: (field) => EditorView.decorations.from(field, (value) => value.drawn)
})

/** Typing makes its line quiet, a rest leaves only the word quiet, and a cursor that goes elsewhere ends that. */
function quietAfter(quiet: Quiet, transaction: Transaction): Quiet {
    if (transaction.docChanged)
        return transaction.isUserEvent('input.type') || transaction.isUserEvent('delete') ? 'line' : 'none'
    if (transaction.selection) return 'none'
    if (quiet === 'line' && transaction.effects.some((e) => e.is(rested))) return 'word'
    return quiet
}

/** Whether a message is of what is still being typed: the cursor stands at the end of a word of it. */
export function unfinished(doc: Text, head: number, from: number, to: number, quiet: Quiet): boolean {
    if (quiet === 'none') return false
    const line = doc.lineAt(head)
    const typed = /[\p{L}\p{N}_]+$/u.exec(line.text.slice(0, head - line.from))?.[0]
    if (!typed || /^[\p{L}\p{N}_]/u.test(line.text.slice(head - line.from))) return false
    if (quiet === 'line') return from <= line.to && to >= line.from
    return from >= head - typed.length && to === head
}

/** Tells when the hand has rested for a moment. */
export const resting = ViewPlugin.fromClass(
    class {
        timer: ReturnType<typeof setTimeout> | undefined

        update(update: ViewUpdate) {
            if (!update.docChanged) return
            clearTimeout(this.timer)
            this.timer = setTimeout(() => update.view.dispatch({ effects: rested.of(null) }), REST_MS)
        }

        destroy() {
            clearTimeout(this.timer)
        }
    }
)

function built(state: EditorState, run: RunMarks, quiet: Quiet): Marks {
    const { doc } = state
    const { head } = state.selection.main
    const inDoc = (line: number) => line >= 1 && line <= doc.lines
    const numbers = run.findings
        .filter((f) => inDoc(f.line))
        .map((f) => new FindingMarker(f.number, f.evidence).range(doc.line(f.line).from))
    const drawn: Range<Decoration>[] = []
    for (const reading of run.readings.filter((r) => inDoc(r.line))) {
        const widget = Decoration.widget({ widget: new Formula(reading), side: 1, block: true })
        drawn.push(widget.range(doc.line(reading.line).to))
    }
    for (const message of run.messages) {
        const { from, to } = spanOf(doc, message)
        const typing = unfinished(doc, head, from, to, quiet)
        if (typing && quiet === 'line') continue
        const end = doc.lineAt(from).to
        // At rest it is told what is amiss, but a word that may go on is not underlined.
        if (to > from && !typing) drawn.push(Decoration.mark({ class: `cm-${message.severity}` }).range(from, to))
        drawn.push(Decoration.widget({ widget: new Said(message), side: 2, block: true }).range(end))
    }
    return {
        numbers: RangeSet.of(numbers, true),
        drawn: Decoration.set(drawn, true),
        since: undefined,
        before: doc,
        run,
        quiet
    }
}

const litLine = Decoration.line({ class: 'cm-lit' })

export const lit = StateField.define<DecorationSet>({
    create: () => Decoration.none,
    update(value, transaction) {
        for (const effect of transaction.effects) {
            if (!effect.is(lightLine)) continue
            const number = effect.value
            if (number === undefined) return Decoration.none
            const place = placeOfFinding(transaction.state, number)
            return place === undefined ? Decoration.none : Decoration.set([litLine.range(place)])
        }
        return value.map(transaction.changes)
    },
    provide: (field) => EditorView.decorations.from(field)
})

/** The start of the line in which a finding stands now. */
export function placeOfFinding(state: EditorState, number: number): number | undefined {
    for (const cursor = state.field(marks).numbers.iter(); cursor.value; cursor.next())
        if (cursor.value.number === number) return state.doc.lineAt(cursor.from).from
    return undefined
}

class FindingMarker extends GutterMarker {
    readonly number: number
    readonly evidence: Evidence

    constructor(number: number, evidence: Evidence) {
        super()
        this.number = number
        this.evidence = evidence
    }

    override eq(other: FindingMarker): boolean {
        return other.number === this.number && other.evidence === this.evidence
    }

    override toDOM(): HTMLElement {
        const mark = document.createElement('button')
        mark.className = `cm-finding cm-${this.evidence}`
        mark.textContent = String(this.number)
        mark.title = `Finding ${this.number}: ${this.evidence}`
        mark.setAttribute('aria-label', mark.title)
        mark.dataset.finding = String(this.number)
        mark.tabIndex = -1
        return mark
    }
}

class Spacer extends FindingMarker {
    constructor() {
        super(88, 'proven')
    }
}

class Formula extends WidgetType {
    readonly reading: Reading

    constructor(reading: Reading) {
        super()
        this.reading = reading
    }

    override eq(other: Formula): boolean {
        return other.reading.latex === this.reading.latex
    }

    override toDOM(): HTMLElement {
        const { latex, text } = this.reading
        const room = document.createElement('div')
        room.className = 'cm-formula'
        const shown = document.createElement('span')
        typeset(shown, latex)
        const copies = document.createElement('span')
        copies.className = 'cm-copies'
        copies.append('copy as ')
        for (const [label, content] of [
            ['LaTeX', () => latex],
            ['MathML', () => mathml(latex)],
            ['text', () => text ?? latex]
        ] as const) {
            const button = document.createElement('button')
            button.textContent = label
            button.title = `Copy this formula as ${label}`
            button.addEventListener('mousedown', (event) => event.preventDefault())
            button.addEventListener('click', () => {
                void copied(content()).then((done) => {
                    if (!done) return
                    button.textContent = 'copied'
                    setTimeout(() => (button.textContent = label), 1200)
                })
            })
            copies.append(button)
        }
        room.append(shown, copies)
        return room
    }

    override ignoreEvent(): boolean {
        return true
    }

    override get estimatedHeight(): number {
        return 30
    }
}

class Said extends WidgetType {
    readonly message: Message

    constructor(message: Message) {
        super()
        this.message = message
    }

    override eq(other: Said): boolean {
        return JSON.stringify(other.message) === JSON.stringify(this.message)
    }

    override toDOM(view: EditorView): HTMLElement {
        // The editor counts no margins when it lays out lines, so the room around the box is padding of this one.
        const room = document.createElement('div')
        room.className = 'cm-said-room'
        const box = document.createElement('div')
        box.className = `cm-said cm-said-${this.message.severity}`
        room.append(box)
        box.setAttribute('role', 'note')
        const text = document.createElement('span')
        text.textContent = sentence(this.message.text)
        box.append(text)
        const fixes = this.message.fixes ?? (this.message.fix ? [this.message.fix] : [])
        for (const fix of fixes) box.append(fix.edits.length ? fixButton(view, fix) : advice(fix))
        return room
    }

    override ignoreEvent(): boolean {
        return true
    }

    override get estimatedHeight(): number {
        return 36
    }
}

/** Messages begin small, as in their list: what stands first may be a name of the script, and X is another one than x. */
function sentence(text: string): string {
    return text + (/[.?!]$/.test(text) ? '' : '.')
}

function advice(fix: Fix): HTMLElement {
    const said = document.createElement('span')
    said.className = 'cm-advice'
    said.textContent = fix.label
    return said
}

function fixButton(view: EditorView, fix: Fix): HTMLElement {
    const button = document.createElement('button')
    button.className = 'cm-fix'
    button.textContent = fix.label
    button.title = 'Write this into the script'
    button.addEventListener('mousedown', (event) => event.preventDefault())
    button.addEventListener('click', () => applyFix(view, fix))
    return button
}

function applyFix(view: EditorView, fix: Fix): void {
    const { before, since } = view.state.field(marks)
    const changes = fix.edits.map((edit) => {
        const { from, to, insert } = changeOf(before, edit)
        return { from: since ? since.mapPos(from, 1) : from, to: since ? since.mapPos(to, -1) : to, insert }
    })
    if (changes.some((c) => c.to < c.from)) return
    view.dispatch({ changes, userEvent: 'input.fix', scrollIntoView: true })
    view.focus()
}

export function findingGutter(handlers: Handlers) {
    return gutter({
        class: 'cm-findings',
        markers: (view) => view.state.field(marks).numbers,
        initialSpacer: () => new Spacer(),
        domEventHandlers: {
            mousedown(_, __, event) {
                const number = (event.target as HTMLElement).dataset.finding
                if (!number) return false
                handlers.choose(Number(number))
                return true
            }
        }
    })
}

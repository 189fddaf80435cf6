import { api, figureAddress, Refusal, type Folio, type HandbookPage, type TableShown, type Words } from '../api/client'
import type { FigureRecord, Finding, Message, RunRecord, SeenName } from '../lib/record'
import { listen, type RunEvent } from './events'
import type { RunMarks } from './marks'
import type { StopMark } from './stops'
import { inked } from './tunes'
import { addressOf, letGo } from '../lib/addresses'
import { wordsOf } from '../lib/faults'
import { Latest } from '../lib/latest'
import { Walk } from './walk.svelte'

const PAUSE_MS = 700
const RETRY_MS = 4000
const PREVIEWS_AT_ONCE = 2 // one is drawn while the other is on its way
const AUTO_KEY = 'open-lemma-run-on-pause'
const NEXT_KEY = 'open-lemma-what-now'

export interface ShownFigure {
    record: FigureRecord
    address: string
    /** The drawing itself, where it is at hand. */
    svg?: string
    /** Drawn by an earlier run; this script's own drawing of it has a mistake. */
    old: boolean
    /** The record that keeps it. */
    of?: number
}

export type Saving = 'saved' | 'unsaved' | 'saving' | 'failed'

/** One folio being worked on: its script, what the latest run gave, and what is being done about both. */
export class Desk {
    readonly id: number
    title = $state('')
    script = $state('')
    words = $state.raw<Words | undefined>(undefined)
    handbook = $state.raw<HandbookPage[]>([])
    tables = $state.raw<TableShown[]>([])
    loading = $state<'yes' | 'no' | string>('yes')

    saving = $state<Saving>('saved')
    conflict = $state.raw<Folio | undefined>(undefined)

    running = $state(false)
    progress = $state('')
    /** The place of the run in the queue, while it waits for room. */
    queued = $state<number | undefined>(undefined)
    failure = $state('')
    findings = $state.raw<Finding[]>([])
    figures = $state.raw<ShownFigure[]>([])
    messages = $state.raw<Message[]>([])
    marks = $state.raw<RunMarks | undefined>(undefined)
    record = $state.raw<{ id: number; number: number; sameAs: number | null; seconds: number } | undefined>(undefined)
    chosenFinding = $state<number | undefined>(undefined)
    chosenFigure = $state<string | undefined>(undefined)
    /** What names stood for at the end of the latest run; undefined before the first one. */
    names = $state.raw<SeenName[] | undefined>(undefined)
    /** Lines of the statements whose results were kept from the run before. */
    reused = $state.raw<number[]>([])
    elapsed = $state(0)
    walk = $state.raw<Walk | undefined>(undefined)
    runOnPause = $state(localStorage.getItem(AUTO_KEY) !== 'no')
    /** Whether an empty line offers what may come next. */
    whatNow = $state(localStorage.getItem(NEXT_KEY) !== 'no')

    figure = $derived(this.figures.find((f) => f.record.name === this.chosenFigure) ?? this.figures[0])

    #version = 0
    #savedScript = ''
    /** The script that was last sent, whether or not the answer came through. */
    #sent: string | undefined
    /** A title that the server does not know yet. */
    #titleWanted: string | undefined
    #pause: ReturnType<typeof setTimeout> | undefined
    #run: string | undefined
    #stopListening: (() => void) | undefined
    #again = false
    #blobs: string[] = []
    #clock: ReturnType<typeof setInterval> | undefined
    #partly = false
    #previews = 0
    readonly #tunings = new Latest()
    #wanted: string | undefined

    constructor(id: number) {
        this.id = id
    }

    async load(): Promise<void> {
        try {
            const [folio, words, handbook, tables] = await Promise.all([
                api.folio(this.id),
                api.words(),
                api.handbook(),
                api.tables(this.id)
            ])
            this.words = words
            this.handbook = handbook
            this.tables = tables
            this.#take(folio)
            this.loading = 'no'
            if (!folio.latest?.script_is_current && folio.script.trim()) void this.run()
        } catch (reason) {
            this.loading = wordsOf(reason)
        }
    }

    /** Take over a folio as the server has it. */
    #take(folio: Folio): void {
        this.title = folio.title
        this.script = this.#savedScript = folio.script
        this.#version = folio.version
        this.saving = 'saved'
        this.conflict = undefined
        if (!folio.latest) return
        const { id, number, same_as, record } = folio.latest
        const plain = record as unknown as RunRecord
        const drawn = plain.figures.map((f) => ({
            record: f,
            address: figureAddress(id, f.name, 'svg'),
            old: false,
            of: id
        }))
        this.#show(plain, drawn)
        if (folio.latest.script_is_current)
            this.record = { id, number, sameAs: same_as ?? null, seconds: plain.duration_s }
    }

    // ------------------------------------------------------------ writing and saving

    /** The script as it is typed: after a pause it is run, or only saved where that was chosen. */
    write(script: string): void {
        if (script === this.script) return
        this.script = script
        this.saving = 'unsaved'
        this.#wait(PAUSE_MS)
    }

    #wait(ms: number): void {
        clearTimeout(this.#pause)
        this.#pause = setTimeout(() => void (this.runOnPause ? this.run() : this.#saveAndCheck()), ms)
    }

    /** Where pauses do not run the script, what can be known of it without running is told all the same. */
    async #saveAndCheck(): Promise<void> {
        await this.save()
        const script = this.script
        try {
            const messages = (await api.check(script)) as unknown as Message[]
            if (script !== this.script || this.running) return
            this.messages = messages
            this.marks = { findings: this.findings, readings: [], messages }
        } catch {
            // It is said again with the next run.
        }
    }

    setRunOnPause(on: boolean): void {
        this.runOnPause = on
        localStorage.setItem(AUTO_KEY, on ? 'yes' : 'no')
    }

    setWhatNow(on: boolean): void {
        this.whatNow = on
        localStorage.setItem(NEXT_KEY, on ? 'yes' : 'no')
    }

    async rename(title: string): Promise<void> {
        const plain = title.trim()
        if (!plain || plain === this.title) return
        const before = this.title
        this.title = plain
        try {
            await this.#kept(() => this.#retitle(plain))
        } catch (reason) {
            // While the server is away it is tried again; what was refused is not what stands there.
            if (reason instanceof Refusal && reason.passing) this.#titleWanted = plain
            else this.title = before
        }
    }

    async #retitle(title: string): Promise<void> {
        const card = await api.change(this.id, this.#version, { title })
        this.#titleWanted = undefined
        this.#version = card.version
        this.title = card.title
    }

    async save(): Promise<void> {
        if (this.conflict || (this.script === this.#savedScript && this.#titleWanted === undefined)) return
        const script = this.script
        this.saving = 'saving'
        await this.#kept(async () => {
            const card = await api.change(this.id, this.#version, { script })
            this.#accept(script, card.version)
        }, script).catch(() => undefined)
    }

    #accept(script: string, version: number): void {
        this.#version = version
        this.#savedScript = script
        this.saving = this.script === script ? 'saved' : 'unsaved'
    }

    /**
     * Do something that saves. A conflict is shown; while the server is away or busy it is tried again and again.
     * script: what is saved. That the server has it already, from an answer that did not come through, is no conflict.
     */
    async #kept(work: () => Promise<void>, script?: string): Promise<void> {
        const before = this.#sent
        try {
            if (script !== undefined && this.#titleWanted !== undefined) await this.#retitle(this.#titleWanted)
            this.#sent = script ?? this.#sent
            await work()
            this.failure = ''
        } catch (reason) {
            const refusal = reason instanceof Refusal ? reason : undefined
            const now = refusal?.folio
            if (now && script !== undefined && now.script === before && now.version !== this.#version) {
                this.#accept(now.script, now.version)
                return this.#kept(work, script)
            }
            if (refusal?.version !== undefined && script !== undefined) this.#accept(script, refusal.version)
            else this.saving = this.script === this.#savedScript ? 'saved' : 'failed'
            if (now) this.conflict = now
            else {
                this.failure = wordsOf(reason)
                if (refusal?.passing) this.#wait(RETRY_MS)
            }
            throw reason
        }
    }

    takeTheirs(): void {
        if (this.conflict) this.#take(this.conflict)
        void this.run()
    }

    async keepMine(): Promise<void> {
        if (!this.conflict) return
        this.#version = this.conflict.version
        this.conflict = undefined
        await this.run()
    }

    async keepAsCopy(): Promise<number | undefined> {
        try {
            return (await api.create(`${this.title} (my version)`, this.script)).id
        } catch (reason) {
            this.failure = wordsOf(reason)
            return undefined
        }
    }

    // ------------------------------------------------------------ running

    /** Run the script, or one part of it, or from a part on. */
    async run(part?: string, onwards = false): Promise<void> {
        clearTimeout(this.#pause)
        if (this.conflict || this.loading !== 'no') return
        this.endWalk()
        if (this.running) {
            // What is running is out of date: end it, and begin again when it has said so.
            this.#again = true
            await this.stop()
            return
        }
        const script = this.script
        this.#tunings.drop()
        this.running = true
        this.#partly = part !== undefined
        this.progress = ''
        this.queued = undefined
        this.#startClock()
        this.saving = script === this.#savedScript ? 'saved' : 'saving'
        try {
            await this.#kept(async () => {
                const begun = await api.run(this.id, script, this.#version, part, onwards)
                this.#run = begun.run_id
                this.#accept(script, begun.version)
            }, script)
            this.#stopListening = listen(
                this.#run as string,
                (event) => this.#hear(event),
                () => this.#end('the connection to the run was lost; run it again')
            )
        } catch {
            this.running = false
            clearInterval(this.#clock)
        }
    }

    #startClock(): void {
        const start = performance.now()
        this.elapsed = 0
        clearInterval(this.#clock)
        this.#clock = setInterval(() => (this.elapsed = (performance.now() - start) / 1000), 100)
    }

    async stop(): Promise<void> {
        if (!this.#run) return
        try {
            await api.stop(this.#run)
        } catch {
            // It has ended in the meantime, and its last event is on its way.
        }
    }

    #hear(event: RunEvent): void {
        this.queued = event.event === 'queued' ? event.place : undefined
        if (event.event === 'progress') this.#tell(event)
        else if (event.event === 'figure') this.#drawAtOnce(event.figure, event.svg)
        else if (event.event === 'finding') this.#findAtOnce(event.finding)
        else if (event.event === 'names') {
            if (!this.#partly) this.names = event.names
            this.reused = event.reused
        } else if (event.event === 'done') {
            const { record, record_id, number, same_as } = event
            if (record_id === undefined || number === undefined) this.#showPart(record)
            else {
                this.record = { id: record_id, number, sameAs: same_as ?? null, seconds: record.duration_s }
                this.#show(record, this.#settled(record, record_id))
            }
            this.#end('')
        } else if (event.event === 'failed') this.#end(event.reason === 'stopped' && this.#again ? '' : event.text)
    }

    #tell(event: RunEvent & { event: 'progress' }): void {
        if (event.found) this.progress = `line ${event.line}: ${event.found} found so far`
        else if (event.at)
            this.progress = `line ${event.line}: ${event.at}${event.share === undefined ? '' : `, ${Math.floor(event.share * 100)} % done`}`
        else if (event.of)
            this.progress = `line ${event.line}${event.of > 1 ? `, statement ${(event.done ?? 0) + 1} of ${event.of}` : ''}`
    }

    /** A figure is shown as soon as it is drawn, before the run is over. */
    #drawAtOnce(record: FigureRecord, svg: string): void {
        const address = addressOf(svg, 'image/svg+xml')
        this.#blobs.push(address)
        const drawn = { record, address, svg, old: false }
        const place = this.figures.findIndex((f) => f.record.name === record.name)
        const before = this.figures[place]?.address
        if (before?.startsWith('blob:')) {
            letGo(before)
            this.#blobs = this.#blobs.filter((b) => b !== before)
        }
        this.figures = place < 0 ? [...this.figures, drawn] : this.figures.with(place, drawn)
    }

    #findAtOnce(finding: Finding): void {
        const place = this.findings.findIndex((f) => f.number === finding.number)
        this.findings = place < 0 ? [...this.findings, finding] : this.findings.with(place, finding)
    }

    /** The figures of a finished run, and those of the run before whose drawing has a mistake now. */
    #settled(record: RunRecord, id: number): ShownFigure[] {
        const shown = this.figures
        const fresh = record.figures.map((f) => {
            const before = shown.find((s) => s.record.name === f.name)
            return {
                record: f,
                address: before?.address ?? figureAddress(id, f.name, 'svg'),
                ...(before?.svg === undefined ? {} : { svg: before.svg }),
                old: false,
                of: id
            }
        })
        if (!record.messages.some((m) => m.severity === 'error')) return fresh
        const gone = shown.filter((s) => !fresh.some((f) => f.record.name === s.record.name))
        return [...fresh, ...gone.map((s) => ({ ...s, old: true }))]
    }

    #show(record: RunRecord, figures: ShownFigure[]): void {
        this.findings = record.findings
        this.messages = record.messages
        this.figures = figures
        this.marks = { findings: record.findings, readings: record.readings, messages: record.messages }
        if (!record.findings.some((f) => f.number === this.chosenFinding)) this.chosenFinding = undefined
        const used = (address: string) => figures.some((f) => f.address === address)
        for (const address of this.#blobs) if (!used(address)) letGo(address)
        this.#blobs = this.#blobs.filter(used)
    }

    /** A part that ran: what it gave takes its places among what is there; messages are those of the whole script. */
    #showPart(record: RunRecord): void {
        const findings = this.findings.filter((f) => !record.findings.some((r) => r.number === f.number))
        const all = [...findings, ...record.findings].sort((a, b) => a.number - b.number)
        const readings = this.marks?.readings.filter((r) => !record.readings.some((o) => o.line === r.line)) ?? []
        const figures = this.figures.map((f) => ({
            ...f,
            record: record.figures.find((r) => r.name === f.record.name) ?? f.record
        }))
        this.#show({ ...record, findings: all, readings: [...readings, ...record.readings] }, figures)
    }

    // ------------------------------------------------------------ walk

    async startWalk(stops: StopMark[]): Promise<void> {
        this.endWalk()
        if (this.running) await this.stop()
        const walk = new Walk(this.id, this.script)
        this.walk = walk
        await walk.begin(stops)
        if (walk.failure) {
            this.failure = walk.failure
            this.endWalk()
        }
    }

    endWalk(): void {
        this.walk?.close()
        this.walk = undefined
    }

    // ------------------------------------------------------------ tuned values

    /** While a slider is dragged: what it changes is drawn live. Only the latest value waits, older ones are dropped. */
    tune(name: string, value: number): void {
        this.#wanted = inked(this.script, name, value)
        if (this.#previews < PREVIEWS_AT_ONCE) void this.#preview()
    }

    async #preview(): Promise<void> {
        this.#previews += 1
        while (this.#wanted !== undefined) {
            const script = this.#wanted
            this.#wanted = undefined
            const counts = this.#tunings.ask()
            try {
                const found = await api.preview(this.id, script)
                if (!counts()) continue // a later one came before it, or a run has begun
                const record = found.record as unknown as RunRecord
                for (const drawn of found.figures as unknown as { figure: FigureRecord; svg: string }[])
                    this.#drawAtOnce(drawn.figure, drawn.svg)
                this.findings = record.findings
            } catch {
                // The value is written into the script when it is let go, and what is wrong is told then.
            }
        }
        this.#previews -= 1
    }

    // ------------------------------------------------------------ tables from files

    async bringIn(file: File): Promise<void> {
        try {
            await api.putTable(this.id, file.name, file)
            this.tables = await api.tables(this.id)
            void this.run()
        } catch (reason) {
            this.failure = wordsOf(reason)
        }
    }

    async takeOut(name: string): Promise<void> {
        try {
            await api.removeTable(this.id, name)
            this.tables = await api.tables(this.id)
            void this.run()
        } catch (reason) {
            this.failure = wordsOf(reason)
        }
    }

    #end(failure: string): void {
        clearInterval(this.#clock)
        this.#stopListening?.()
        this.#run = this.#stopListening = undefined
        this.running = false
        this.progress = ''
        this.queued = undefined
        this.failure = failure
        if (this.#again) {
            this.#again = false
            void this.run()
        }
    }

    close(): void {
        clearTimeout(this.#pause)
        clearInterval(this.#clock)
        this.endWalk()
        this.#stopListening?.()
        if (this.script !== this.#savedScript && !this.conflict) void this.save()
        for (const address of this.#blobs) letGo(address)
    }

    get unsaved(): boolean {
        return this.script !== this.#savedScript
    }
}

import { SvelteMap } from 'svelte/reactivity'
import { Latest } from '../../lib/latest'
import { addressOf, letGo } from '../../lib/addresses'
import { wordsOf } from '../../lib/faults'
import { api, type HandAction, type PlaceRead } from '../../api/client'
import type { Edit, FigureRecord, Finding, FoundValue, RunRecord, ShownBox, ShownSeries } from '../../lib/record'
import type { ShownFigure } from '../desk.svelte'
import { drawnLines, NO_LINES, type DrawnLine } from './drawing'
import {
    drawable,
    heightAt,
    isStill,
    moved,
    nearest,
    panelAt,
    STILL,
    toNumbers,
    toPx,
    within,
    type Axis,
    type Movement,
    type Panel,
    type Place,
    type Window
} from './geometry'

import type { Vector, View } from './space/camera'
import type { PlaneAt } from './space/cut'

/** How long the hand rests before the curve is worked out anew. */
const REST_MS = 160
const READ_MS = 50
const TURN_MS = 320
const REACH_PX = 22
const TOUCH_PX = 7

/** What a figure can be asked and told by hand: the desk has the script, the hand knows the figure. */
export interface HandDesk {
    id: number
    script: string
    recordId: () => number | undefined
    ink: (edits: Edit[]) => void
    say: (text: string) => void
    /** Whether a request can be carried out. */
    available: (noun: string) => boolean
    findings: () => Finding[]
}

interface Drawn {
    figure: FigureRecord
    svg: string
}

export interface Reading {
    series: ShownSeries
    panel: number
    place: Place
    px: Place
    slope?: number | null
    /** Of the function itself, not of the drawn line. */
    exact: boolean
    t?: number | null
    finding?: string
    /** The place of the finding that is pointed at, where it is marked by x. */
    found?: FoundValue
}

/** What the pen is at: a drawn thing, or something that stands beside it. */
export interface Chosen {
    kind: string
    panel: number
    line: number
    series?: ShownSeries
    /** Where the panel of the pen stands, in px of the sheet. */
    at: Place
}

export interface SpanChosen {
    panel: number
    series: ShownSeries
    low: number
    high: number
}

/** Where the menu was asked for, and what lies there. */
export interface MenuAt {
    px: Place
    panel: number
    series?: ShownSeries
    box?: ShownBox
    place?: Place
}

/** The hand on one figure: reading, moving, the pen, spans. */
export class Hand {
    readonly desk: HandDesk
    /** The figure as the run drew it. */
    base = $state.raw<ShownFigure | undefined>(undefined)
    /** What is shown instead of it: looked at closer, or tried on. */
    tried = $state.raw<ShownFigure | undefined>(undefined)
    lines = $state.raw<Map<string, DrawnLine>>(NO_LINES)
    /** The movement since the drawing that is shown, of one panel. */
    movement = $state.raw<Movement>(STILL)
    movedPanel = $state(-1)
    /** Windows that were looked at instead of the script's, by panel. */
    readonly zoom = new SvelteMap<number, Window>()
    /** Windows on space that were turned by hand, by panel. */
    readonly views = new SvelteMap<number, View>()
    /** The plane that is slid through a window on space. */
    plane = $state.raw<(PlaneAt & { panel: number }) | undefined>(undefined)
    /** Its section, in straight pieces. */
    slid = $state.raw<[Vector, Vector][]>([])
    reading = $state.raw<Reading | undefined>(undefined)
    pins = $state.raw<Reading[]>([])
    chosen = $state.raw<Chosen | undefined>(undefined)
    span = $state.raw<SpanChosen | undefined>(undefined)
    menu = $state.raw<MenuAt | undefined>(undefined)

    #rest: ReturnType<typeof setTimeout> | undefined
    #read: ReturnType<typeof setTimeout> | undefined
    readonly #looks = new Latest()
    #blobs: string[] = []
    #svg = ''

    constructor(desk: HandDesk) {
        this.desk = desk
    }

    get shown(): ShownFigure | undefined {
        return this.tried ?? this.base
    }

    get record(): FigureRecord | undefined {
        return this.shown?.record
    }

    get panels(): Panel[] {
        return (this.record?.layout.panels ?? []) as Panel[]
    }

    get series(): ShownSeries[] {
        return this.record?.layout.series ?? []
    }

    get isZoomed(): boolean {
        return this.zoom.size > 0 || this.views.size > 0
    }

    /** The window on space that keys turn, -1 for none. */
    get spacePanel(): number {
        return this.panels.findIndex((p) => p.space)
    }

    /** From where a window on space is to be seen. */
    viewOf(panel: number): View {
        const space = this.panels[panel]?.space
        return this.views.get(panel) ?? { azimuth: space?.azimuth ?? 0, elevation: space?.elevation ?? 0 }
    }

    /** Seen from elsewhere: at once by what turns it on screen; when the hand rests it is drawn anew. */
    turn(panel: number, view: View): void {
        this.views.set(panel, view)
        this.reading = undefined
        clearTimeout(this.#rest)
        this.#rest = setTimeout(() => {
            const to = this.views.get(panel)
            if (!to) return
            this.views.set(panel, { azimuth: Math.round(to.azimuth), elevation: Math.round(to.elevation) })
            void this.look([])
        }, TURN_MS)
    }

    /** Another figure, or the same one drawn anew. */
    async take(figure: ShownFigure | undefined): Promise<void> {
        const same = figure && this.base?.record.name === figure.record.name
        if (figure?.address === this.base?.address && figure?.record === this.base?.record) return
        this.base = figure
        if (!same) {
            this.zoom.clear()
            this.views.clear()
            this.plane = undefined
            this.chosen = undefined
            this.pins = []
        }
        this.span = undefined
        this.reading = undefined
        if (same && this.isZoomed) await this.look([])
        else await this.#show(undefined)
        if (this.chosen) this.chosen = this.#again(this.chosen)
    }

    /** The same thing in the figure as it is now: lines may have moved. */
    #again(chosen: Chosen): Chosen | undefined {
        if (chosen.series) {
            const series = this.series.find((s) => s.id === chosen.series?.id)
            return series && { ...chosen, series, line: series.line }
        }
        const panel = this.panels[chosen.panel]
        return panel && { ...chosen, line: this.#lineOf(chosen.kind, chosen.panel) }
    }

    async #show(tried: ShownFigure | undefined): Promise<void> {
        const shown = tried ?? this.base
        this.tried = tried
        this.movement = STILL
        this.movedPanel = -1
        // A picture of a walk has no drawing at hand, and nothing of it can be touched.
        if (!shown || (shown.svg === undefined && shown.address.startsWith('blob:'))) {
            this.lines = NO_LINES
            this.#svg = ''
            return
        }
        try {
            const svg = shown.svg ?? (await (await fetch(shown.address)).text())
            if (this.shown?.address !== shown.address || svg === this.#svg) return
            this.#svg = svg
            this.lines = drawnLines(svg)
        } catch {
            this.lines = NO_LINES
        }
    }

    // ------------------------------------------------------------ moving and looking closer

    /** The drawing moves at once; when the hand rests it is worked out for the new window. */
    move(panel: number, movement: Movement): void {
        const window = this.panels[panel]
        if (!window || !drawable(moved(window, movement))) return
        this.movedPanel = panel
        this.movement = movement
        this.reading = undefined
        this.settle()
    }

    settle(): void {
        clearTimeout(this.#rest)
        this.#rest = setTimeout(() => {
            const panel = this.panels[this.movedPanel]
            if (!panel || isStill(this.movement)) return
            this.zoom.set(this.movedPanel, ordered(moved(panel, this.movement)))
            void this.look([])
        }, REST_MS)
    }

    #zoomActions(): HandAction[] {
        const panels = (this.base?.record.layout.panels ?? []) as Panel[]
        const windows = [...this.zoom].flatMap(([k, window]) => {
            const panel = panels[k]
            return panel ? [this.#windowAction(panel, window)] : []
        })
        const views = [...this.views].flatMap(([k, view]) => {
            const panel = panels[k]
            return panel ? [{ do: 'view', line: panel.line, more: { ...view } }] : []
        })
        return [...windows, ...views]
    }

    #windowAction(panel: Panel, window: Window): HandAction {
        const more: Record<string, unknown> = { x: window.x, y: window.y }
        more.x_logarithmic = panel.x.scale === 'logarithmic'
        more.y_logarithmic = panel.y.scale === 'logarithmic'
        more.x_reversed = panel.x.reversed === true
        more.y_reversed = panel.y.reversed === true
        if (window.right && panel.right) {
            more.right = window.right
            more.right_logarithmic = panel.right.scale === 'logarithmic'
            more.right_reversed = panel.right.reversed === true
        }
        return { do: 'window', line: panel.line, more }
    }

    /** The figure as it would be with some actions, in the window that is looked at. Later answers win. */
    async look(actions: HandAction[]): Promise<boolean> {
        const base = this.base
        if (!base) return false
        const counts = this.#looks.ask()
        let answered = false
        const [all, before] = [[...actions, ...this.#zoomActions()], this.movement]
        try {
            const turns = !actions.length && !this.zoom.size && this.views.size > 0
            const { drawn, trouble } =
                turns && base.of !== undefined && !base.old
                    ? { drawn: await this.#fromElsewhere(base.of, base.record), trouble: undefined }
                    : await this.#previewed(base.record, all)
            if (!counts() || this.base?.record.name !== base.record.name) return false
            answered = true
            if (trouble) this.desk.say(trouble)
            if (trouble) return false
            // The hand has gone on meanwhile: its later movement is drawn when it rests.
            if (this.movement !== before) return true
            const address = drawn ? addressOf(drawn.svg, 'image/svg+xml') : ''
            if (drawn) this.#keep(address)
            await this.#show(drawn ? { record: drawn.figure, address, svg: drawn.svg, old: false } : undefined)
            return true
        } catch (reason) {
            if (answered || counts()) this.desk.say(wordsOf(reason))
            return false
        }
    }

    /** The kept figure as it is seen from where the hand turned it: nothing runs for that. */
    async #fromElsewhere(of: number, record: FigureRecord): Promise<Drawn> {
        const views = [...this.views].map(([panel, view]) => ({ panel, ...view }))
        const found = await api.turned(of, record.name, views)
        return { figure: { ...record, layout: found.layout as unknown as FigureRecord['layout'] }, svg: found.svg }
    }

    async #previewed(
        record: FigureRecord,
        actions: HandAction[]
    ): Promise<{ drawn: Drawn | undefined; trouble: string | undefined }> {
        const found = await api.preview(this.desk.id, this.desk.script, actions)
        const drawn = (found.figures as unknown as Drawn[]).find((f) => f.figure.name === record.name)
        const messages = (found.record as unknown as RunRecord).messages
        return { drawn, trouble: drawn ? undefined : messages.find((m) => m.severity === 'error')?.text }
    }

    #keep(address: string): void {
        this.#blobs.push(address)
        while (this.#blobs.length > 6) letGo(this.#blobs.shift() as string)
    }

    home(): void {
        clearTimeout(this.#rest)
        this.zoom.clear()
        this.views.clear()
        this.#looks.drop()
        void this.#show(undefined)
    }

    /** Write the window that is looked at into the script. */
    async keep(): Promise<void> {
        const actions = this.#zoomActions()
        if (!(await this.#ink(actions))) return
        this.zoom.clear()
        this.views.clear()
    }

    /** A place on a surface as a mark in the script. */
    async markPlace(panel: number, place: [number, number, number]): Promise<boolean> {
        const window = this.panels[panel]
        if (!window) return false
        const axes = [window.x, window.y, window.z ?? window.y]
        const named = ['x', 'y', 'z'].flatMap((name, k) => {
            const axis = axes[k] as Axis
            return [
                [name, place[k]],
                [`${name}_span`, axis.high - axis.low]
            ]
        })
        return this.#ink([
            { do: 'mark', line: window.line, more: Object.fromEntries(named) as Record<string, unknown> }
        ])
    }

    /** The section that the hand slid to, on the surface itself or in a figure of its own. */
    async inkSection(alone: boolean): Promise<void> {
        const plane = this.plane
        const window = plane && this.panels[plane.panel]
        const surface = this.series.find((s) => s.panel === plane?.panel && s.kind === 'surface')
        if (!plane || !window || !surface) return
        const axis = [window.x, window.y, window.z ?? window.y][plane.axis] as Axis
        const normal = [0, 1, 2].map((k) => Number(k === plane.axis))
        const more = {
            series: surface.line,
            item: this.itemOf(surface).item,
            plane: [...normal, plane.value],
            span: axis.high - axis.low,
            alone
        }
        if (await this.#ink([{ do: 'section', line: window.line, more }])) this.plane = undefined
    }

    // ------------------------------------------------------------ reading

    /** The drawn thing next to a place of the sheet; a filling only where nothing else is near, since lines lie upon it. */
    under(px: Place, reach = TOUCH_PX): { series: ShownSeries; px: Place; away: number } | undefined {
        return this.#nearestOf(px, reach, false) ?? this.#nearestOf(px, reach, true)
    }

    #nearestOf(px: Place, reach: number, bands: boolean): { series: ShownSeries; px: Place; away: number } | undefined {
        let best: { series: ShownSeries; px: Place; away: number } | undefined
        for (const series of this.series) {
            if (series.kind === 'text' || series.kind === 'mark' || (series.kind === 'band') !== bands) continue
            const found = this.#nearestOn(series, px)
            if (found && found.away <= reach && (!best || found.away < best.away - 0.5))
                best = { series, px: found.place, away: found.away }
        }
        return best
    }

    #nearestOn(series: ShownSeries, px: Place): { place: Place; away: number } | undefined {
        const drawn = this.lines.get(series.id)
        if (!drawn) return undefined
        const marks = [...drawn.marks, ...(this.lines.get(`${series.id}-marks`)?.marks ?? [])]
        const onLines = nearest(drawn.lines, px)
        const onMarks =
            series.kind === 'points' || !drawn.lines.length
                ? nearest(
                      marks.map((m) => [m]),
                      px
                  )
                : undefined
        if (onLines && (!onMarks || onLines.away < onMarks.away)) return onLines
        return onMarks
    }

    /** Read what stands under the pointer: at once off the drawn line, a moment later of the function. */
    hover(px: Place | undefined): void {
        if (!px || !isStill(this.movement)) {
            this.reading = undefined
            clearTimeout(this.#read)
            return
        }
        const panel = panelAt(this.panels, px)
        const found = panel < 0 ? undefined : this.#at(panel, px)
        this.reading = found
        if (found) this.#exactly(found)
    }

    #at(panel: number, px: Place): Reading | undefined {
        const here = this.under(px, REACH_PX)
        if (!here || here.series.panel !== panel) return undefined
        return this.#readingOf(here.series, panel, here.px, px)
    }

    #readingOf(series: ShownSeries, panel: number, place: Place, pointer: Place): Reading | undefined {
        const window = this.panels[panel]
        if (!window) return undefined
        let at = place
        const drawn = this.lines.get(series.id)
        if (series.kind === 'curve' && series.exact && drawn) {
            // A curve of a function is read straight above or below the pointer.
            const y = heightAt(drawn.lines, pointer.x, place.y)
            if (y !== undefined && Math.abs(y - pointer.y) < REACH_PX * 1.6) at = { x: pointer.x, y }
        }
        const numbers = toNumbers(window, at, series.right)
        const reading = { series, panel, place: numbers, px: at, exact: false, ...this.#findingAt(at, numbers.x) }
        // The place of a finding is that of the record, not where its mark happens to be drawn.
        const known = reading.found
        if (known?.x === undefined) return reading
        const isRoot = this.desk.findings().some((f) => String(f.number) === reading.finding && f.noun === 'roots')
        const spot = { x: known.x, y: typeof known.value === 'number' ? known.value : isRoot ? 0 : numbers.y }
        return { ...reading, place: spot, px: toPx(window, spot, series.right) }
    }

    /** The finding whose mark is pointed at, with the one of its places that lies nearest. */
    #findingAt(px: Place, x: number): { finding?: string; found?: FoundValue } {
        const finding = this.#markedAt(px)
        if (finding === undefined) return {}
        const rows = this.desk.findings().find((f) => String(f.number) === finding)?.values ?? []
        const known = rows.filter((r) => typeof r.x === 'number' && r.interval)
        if (!known.length) return { finding }
        const found = known.reduce((a, b) => (Math.abs((a.x ?? 0) - x) <= Math.abs((b.x ?? 0) - x) ? a : b))
        return { finding, found }
    }

    #markedAt(px: Place): string | undefined {
        const box = this.record?.layout.boxes?.find((b) => b.kind === 'mark' && within(b.px, px, 4))
        const marked = this.series.find((s) => s.kind === 'mark' && s.id === box?.series)
        if (marked?.text) return marked.text
        for (const series of this.series.filter((s) => s.kind === 'mark')) {
            const spots = this.lines.get(`${series.id}-spot`)?.marks ?? []
            if (spots.some((m) => Math.hypot(m.x - px.x, m.y - px.y) < 6) && series.text) return series.text
        }
        return undefined
    }

    #exactly(reading: Reading): void {
        clearTimeout(this.#read)
        const record = this.desk.recordId()
        const name = this.base?.record.name
        if (
            record === undefined ||
            name === undefined ||
            !['curve', 'points', 'line', 'bars'].includes(reading.series.kind)
        )
            return
        this.#read = setTimeout(async () => {
            try {
                const found = await api.read(record, name, reading.series.id, reading.place)
                if (this.reading === reading) this.reading = this.#withRead(reading, found)
            } catch {
                // What the drawn line says stays.
            }
        }, READ_MS)
    }

    #withRead(reading: Reading, found: PlaceRead): Reading {
        const panel = this.panels[reading.panel] as Panel
        const place = { x: found.x, y: found.y }
        return {
            ...reading,
            place,
            px: toPx(panel, place, reading.series.right),
            slope: found.slope,
            exact: found.exact,
            t: found.t ?? null
        }
    }

    /** By keys: along the curve that is read, or to another one. */
    step(along: number, other: number): void {
        // Texts and the badges of marks are no places: a mark is read where its spot is.
        const curves = this.series.filter((s) => {
            const drawn = this.#readable(s)
            return s.kind === 'mark'
                ? drawn?.marks.length
                : s.kind !== 'text' && (drawn?.lines.length || drawn?.marks.length)
        })
        if (!curves.length) return
        let reading = this.reading
        let series = reading ? curves.find((s) => s.id === reading?.series.id) : undefined
        if (!series || other) {
            const place = series ? curves.indexOf(series) : -1
            series = curves[(place + (other || 1) + curves.length) % curves.length] as ShownSeries
        }
        const panel = this.panels[series.panel]
        if (!panel) return
        const [left, top, width, height] = panel.bounds_px
        const from =
            reading && reading.panel === series.panel ? reading.px : { x: left + width / 2, y: top + height / 2 }
        const wanted = { x: Math.max(left, Math.min(left + width, from.x + along * width)), y: from.y }
        const drawn = this.#readable(series)
        let px = wanted
        if (series.kind === 'points' || series.kind === 'mark' || !drawn?.lines.length)
            px = this.#nextMark(series, from, along) ?? wanted
        else {
            const y = heightAt(drawn.lines, wanted.x, from.y)
            px = y === undefined ? (nearest(drawn.lines, wanted)?.place ?? wanted) : { x: wanted.x, y }
        }
        reading = this.#readingOf(series, series.panel, px, px)
        this.reading = reading
        if (reading) this.#exactly(reading)
    }

    /** What of a drawn thing has places that can be read: of a finding's mark its spots, not its badge. */
    #readable(series: ShownSeries): DrawnLine | undefined {
        return this.lines.get(series.kind === 'mark' ? `${series.id}-spot` : series.id)
    }

    #nextMark(series: ShownSeries, from: Place, along: number): Place | undefined {
        const marks = [...(this.#readable(series)?.marks ?? [])].sort((a, b) => a.x - b.x)
        if (along > 0) return marks.find((m) => m.x > from.x + 0.01) ?? marks.at(-1)
        if (along < 0) return marks.filter((m) => m.x < from.x - 0.01).at(-1) ?? marks[0]
        return nearest(
            marks.map((m) => [m]),
            from
        )?.place
    }

    pin(): void {
        if (this.reading) this.pins = [...this.pins, this.reading]
    }

    unpin(reading: Reading): void {
        this.pins = this.pins.filter((p) => p !== reading)
    }

    async markPin(reading: Reading): Promise<void> {
        const panel = this.panels[reading.panel]
        if (!panel) return
        const y = reading.series.right && panel.right ? panel.right : panel.y
        const done = await this.#ink([
            {
                do: 'mark',
                line: panel.line,
                more: {
                    x: reading.place.x,
                    x_span: panel.x.high - panel.x.low,
                    y: reading.place.y,
                    y_span: y.high - y.low
                }
            }
        ])
        if (done) this.unpin(reading)
    }

    // ------------------------------------------------------------ the pen

    /** What a click means: the thing, text, axis or legend under it. */
    choose(px: Place): void {
        const layout = this.record?.layout
        if (!layout) return
        const box = [...(layout.boxes ?? [])].reverse().find((b) => !b.kind.endsWith('axis') && within(b.px, px, 2))
        if (box) {
            this.#chooseBox(box, px)
            return
        }
        const touched = this.under(px)
        if (touched) {
            this.chosen = {
                kind: 'series',
                panel: touched.series.panel,
                line: touched.series.line,
                series: touched.series,
                at: px
            }
            return
        }
        const axis = layout.boxes?.find((b) => b.kind.endsWith('axis') && within(b.px, px, 2))
        if (axis) this.#chooseBox(axis, px)
        else if (panelAt(this.panels, px) < 0)
            this.chosen = { kind: 'figure', panel: 0, line: this.record?.line ?? 0, at: px }
        else this.chosen = undefined
    }

    #chooseBox(box: ShownBox, px: Place): void {
        const series = this.series.find((s) => s.id === box.series)
        const kind = box.kind === 'label' || box.kind === 'mark' ? 'series' : box.kind
        const line = series?.line ?? this.#lineOf(box.kind, box.panel)
        this.chosen = { kind, panel: box.panel, line, at: px, ...(series ? { series } : {}) }
    }

    /** By keys: the pen at what is being read. */
    choosePen(): void {
        const reading = this.reading
        if (reading)
            this.chosen = {
                kind: 'series',
                panel: reading.panel,
                line: reading.series.line,
                series: reading.series,
                at: reading.px
            }
    }

    /** By keys: the pen at the texts, one after the other. */
    chooseText(): void {
        const texts = this.series.filter((s) => s.kind === 'text')
        const now = texts.findIndex((s) => s.id === this.chosen?.series?.id)
        const series = texts[(now + 1) % texts.length]
        if (series) this.chosen = { kind: 'text', panel: series.panel, line: series.line, series, at: { x: 0, y: 0 } }
    }

    #lineOf(kind: string, panel: number): number {
        return kind === 'title' || kind === 'figure'
            ? (this.record?.line ?? 0)
            : (this.panels[panel]?.line ?? this.record?.line ?? 0)
    }

    /** Try a change on: shown, not written. */
    tryOn(action: HandAction): void {
        void this.look([action])
    }

    /** Write a change into the script; the figure shows it at once. */
    async write(...actions: HandAction[]): Promise<boolean> {
        void this.look(actions)
        return this.#ink(actions)
    }

    async #ink(actions: HandAction[]): Promise<boolean> {
        try {
            const { edits } = await api.ink(this.desk.script, actions)
            this.desk.ink(edits as unknown as Edit[])
            return true
        } catch (reason) {
            this.desk.say(wordsOf(reason))
            return false
        }
    }

    // ------------------------------------------------------------ spans

    /** A span drawn along the horizontal axis, over the curve nearest to its middle. */
    spanAlong(panel: number, from: number, to: number, height: number): void {
        const window = this.panels[panel]
        if (!window || Math.abs(to - from) < 4) {
            this.span = undefined
            return
        }
        const curves = this.series.filter((s) => s.panel === panel && s.kind === 'curve' && s.exact)
        const middle = (from + to) / 2
        let best: { series: ShownSeries; away: number } | undefined
        for (const series of curves) {
            const y = heightAt(this.lines.get(series.id)?.lines ?? [], middle, height)
            const away = y === undefined ? Infinity : Math.abs(y - height)
            if (!best || away < best.away) best = { series, away }
        }
        const chosen = this.reading && curves.find((s) => s.id === this.reading?.series.id)
        const series = chosen ?? best?.series
        if (!series) {
            this.desk.say('There is no curve of a function over this span.')
            this.span = undefined
            return
        }
        const [left, , width] = window.bounds_px
        const ends = [from, to].map(
            (px) => toNumbers(window, { x: Math.max(left, Math.min(left + width, px)), y: 0 }).x
        )
        const [low, high] = ends.sort((a, b) => a - b) as [number, number]
        this.span = { panel, series, low, high }
    }

    /** The curves that could be asked for crossings with the one of the span. */
    others(span: SpanChosen): ShownSeries[] {
        return this.series.filter(
            (s) => s.panel === span.panel && s.kind === 'curve' && s.exact && s.id !== span.series.id
        )
    }

    /** Which of the curves of one line a series is. */
    itemOf(series: ShownSeries): { item: number; count: number } {
        const mine = this.series.filter((s) => s.line === series.line && s.panel === series.panel)
        return { item: mine.findIndex((s) => s.id === series.id), count: mine.length }
    }

    async ask(noun: string, span: SpanChosen, second?: ShownSeries): Promise<void> {
        const panel = this.panels[span.panel]
        if (!panel) return
        const done = await this.#ink([
            {
                do: 'request',
                line: panel.line,
                more: {
                    noun,
                    series: span.series.line,
                    item: this.itemOf(span.series).item,
                    low: span.low,
                    high: span.high,
                    mark: !['slope', 'values', 'integral', 'mean', 'length'].includes(noun),
                    ...(second ? { second: { series: second.line, item: this.itemOf(second).item } } : {})
                }
            }
        ])
        if (done) this.span = undefined
    }

    // ------------------------------------------------------------ the menu

    /** What a right click or the menu key means: what lies there, and the place. */
    openMenu(px: Place): void {
        const panel = Math.max(panelAt(this.panels, px), 0)
        const series = this.under(px)?.series
        const box = [...(this.record?.layout.boxes ?? [])].reverse().find((b) => within(b.px, px, 2))
        const window = this.panels[panel]
        this.menu = {
            px,
            panel,
            ...(series ? { series } : {}),
            ...(box ? { box } : {}),
            ...(window ? { place: toNumbers(window, px, series?.right) } : {})
        }
    }

    /** Ask a curve over the whole window that is seen. */
    async askWindow(noun: string, series: ShownSeries): Promise<void> {
        const panel = this.panels[series.panel]
        if (panel) await this.ask(noun, { panel: series.panel, series, low: panel.x.low, high: panel.x.high })
    }

    /** Draw something beside a curve. */
    async drawBeside(noun: 'tangent' | 'derivative' | 'band', series: ShownSeries, at?: number): Promise<void> {
        const panel = this.panels[series.panel]
        if (!panel) return
        await this.#ink([
            {
                do: 'drawn',
                line: panel.line,
                more: {
                    noun,
                    series: series.line,
                    item: this.itemOf(series).item,
                    low: panel.x.low,
                    high: panel.x.high,
                    ...(at === undefined ? {} : { at })
                }
            }
        ])
    }

    close(): void {
        clearTimeout(this.#rest)
        clearTimeout(this.#read)
        for (const address of this.#blobs) letGo(address)
    }
}

/** A window with rising ends; whether an axis is reversed is said apart from them. */
function ordered(window: Window): Window {
    const up = (ends: [number, number]): [number, number] => [Math.min(...ends), Math.max(...ends)]
    const found: Window = { x: up(window.x), y: up(window.y) }
    if (window.right) found.right = up(window.right)
    return found
}

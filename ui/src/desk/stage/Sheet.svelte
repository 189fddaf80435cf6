<script lang="ts">
    import { SvelteMap } from 'svelte/reactivity'
    import { api } from '../../api/client'
    import { wordsOf } from '../../lib/faults'
    import type { Hand } from './hand.svelte'
    import {
        filling,
        isStill,
        panelAt,
        panned,
        plain,
        readOff,
        STILL,
        within,
        zoomed,
        toNumbers,
        type Box,
        type Place
    } from './geometry'
    import Moving from './Moving.svelte'
    import Readout from './Readout.svelte'
    import { turned, VIEWS } from './space/camera'
    import SpaceView from './SpaceView.svelte'
    import SpanMenu from './SpanMenu.svelte'
    import StageMenu from './StageMenu.svelte'

    interface Props {
        hand: Hand
        scale: number
        /** What dragging inside a window does. */
        mode: 'move' | 'window' | 'span'
        filter?: string
        still?: boolean
    }
    let { hand, scale, mode, filter = '', still = false }: Props = $props()

    const uid = $props.id()
    const PX_PER_MM = 96 / 25.4
    const TEXTS = ['text', 'title', 'panel title']
    const layout = $derived(hand.record?.layout)
    const width = $derived((layout?.width_mm ?? 120) * PX_PER_MM)
    const height = $derived((layout?.height_mm ?? 82) * PX_PER_MM)

    type Grip =
        | { kind: 'move' | 'window' | 'span'; panel: number; from: Place; at: Place; pointer: number }
        | { kind: 'legend' | 'text'; panel: number; from: Place; at: Place; pointer: number; box: Box; line: number }
    let grip = $state.raw<Grip | undefined>(undefined)
    let editing = $state.raw<
        | {
              box: Box
              line: number
              text: string
              kind: 'text' | 'title' | 'panel title' | 'axis' | 'label'
              which?: string
          }
        | undefined
    >(undefined)
    let paper: HTMLDivElement | undefined = $state()
    let dragged = $state(false)
    const pinch = new SvelteMap<number, Place>()

    function at(event: MouseEvent): Place {
        const box = (paper as HTMLElement).getBoundingClientRect()
        return { x: (event.clientX - box.left) / scale, y: (event.clientY - box.top) / scale }
    }

    function axisPanel(px: Place): number {
        const box = layout?.boxes?.find((b) => b.kind === 'x axis' && within(b.px, px, 3))
        return box ? box.panel : -1
    }

    function down(event: PointerEvent): void {
        hand.menu = undefined
        if (still || event.button > 0 || !hand.record) return
        const px = at(event)
        if (event.pointerType === 'touch') {
            pinch.set(event.pointerId, px)
            if (pinch.size === 2) {
                grip = undefined
                return
            }
        }
        dragged = false
        paper?.setPointerCapture(event.pointerId)
        const common = { from: px, at: px, pointer: event.pointerId }
        const box = layout?.boxes?.find((b) => (b.kind === 'legend' || b.kind === 'text') && within(b.px, px, 1))
        if (box) {
            grip = { ...common, kind: box.kind as 'legend' | 'text', panel: box.panel, box: box.px, line: box.line }
            return
        }
        const below = axisPanel(px)
        const inside = panelAt(hand.panels, px)
        if (inside >= 0) grip = { ...common, kind: event.shiftKey ? 'window' : mode, panel: inside }
        else if (below >= 0) grip = { ...common, kind: 'span', panel: below }
    }

    function go(event: PointerEvent): void {
        if (still) return
        const px = at(event)
        if (pinch.has(event.pointerId) && pinch.size === 2) {
            spread(event.pointerId, px)
            return
        }
        if (!grip) {
            hand.hover(px)
            return
        }
        const far = Math.hypot(px.x - grip.from.x, px.y - grip.from.y) * scale
        if (!dragged && far < 4) return
        dragged = true
        if (grip.kind === 'move') {
            const before = grip.at
            grip = { ...grip, at: px }
            const start = hand.movedPanel === grip.panel ? hand.movement : STILL
            hand.move(grip.panel, panned(start, px.x - before.x, px.y - before.y))
        } else grip = { ...grip, at: px }
    }

    /** Two fingers: what was under them stays under them. */
    function spread(finger: number, px: Place): void {
        const [other] = [...pinch].filter(([id]) => id !== finger).map(([, place]) => place)
        const before = pinch.get(finger)
        if (!other || !before) return
        const panel = panelAt(hand.panels, other)
        const [was, is] = [
            Math.hypot(before.x - other.x, before.y - other.y),
            Math.hypot(px.x - other.x, px.y - other.y)
        ]
        pinch.set(finger, px)
        if (panel < 0 || was < 8 || is < 8) return
        const start = hand.movedPanel === panel ? hand.movement : STILL
        hand.move(panel, zoomed(start, other, is / was, is / was))
    }

    function up(event: PointerEvent): void {
        pinch.delete(event.pointerId)
        const held = grip
        grip = undefined
        if (still) return
        const px = at(event)
        if (!held || !dragged) {
            if (held || panelAt(hand.panels, px) < 0) chooseAt(px)
            return
        }
        const panel = hand.panels[held.panel]
        if (!panel) return
        if (held.kind === 'window') {
            const [x, y] = [Math.min(held.from.x, px.x), Math.min(held.from.y, px.y)]
            const box: Box = [x, y, Math.abs(px.x - held.from.x), Math.abs(px.y - held.from.y)]
            if (box[2] > 5 && box[3] > 5) hand.move(held.panel, filling(panel, box))
        } else if (held.kind === 'span') hand.spanAlong(held.panel, held.from.x, px.x, held.from.y)
        else if (held.kind === 'legend') dropLegend(held, px)
        else if (held.kind === 'text') dropText(held, px)
    }

    /** A text may be clicked twice to be edited: the pen, which moves the sheet aside, waits for that. */
    let waiting: ReturnType<typeof setTimeout> | undefined
    function chooseAt(px: Place): void {
        clearTimeout(waiting)
        const text = layout?.boxes?.some(
            (b) => (TEXTS.includes(b.kind) || b.kind === 'legend' || b.kind.endsWith('axis')) && within(b.px, px, 2)
        )
        if (text) waiting = setTimeout(() => hand.choose(px), 260)
        else hand.choose(px)
    }

    function dropLegend(held: Grip & { box: Box }, px: Place): void {
        const panel = hand.panels[held.panel]
        if (!panel) return
        const [left, top, wide, high] = panel.bounds_px
        const middle = {
            x: held.box[0] + held.box[2] / 2 + px.x - held.from.x,
            y: held.box[1] + held.box[3] / 2 + px.y - held.from.y
        }
        const place = [(middle.x - left) / wide, 1 - (middle.y - top) / high]
        void hand.write({ do: 'legend', line: panel.line, more: { at: place } })
    }

    function dropText(held: Grip & { box: Box; line: number }, px: Place): void {
        const panel = hand.panels[held.panel]
        const series = hand.series.find((s) => s.kind === 'text' && s.line === held.line)
        if (!panel) return
        // The place that the script names moves by as much as the hand did.
        const box = { x: held.box[0] + held.box[2] / 2, y: held.box[1] + held.box[3] / 2 }
        const moved = toNumbers(panel, { x: box.x + px.x - held.from.x, y: box.y + px.y - held.from.y }, series?.right)
        const y = series?.right && panel.right ? panel.right : panel.y
        void hand.write({
            do: 'place',
            line: held.line,
            more: { x: moved.x, x_span: panel.x.high - panel.x.low, y: moved.y, y_span: y.high - y.low }
        })
    }

    function wheel(event: WheelEvent): void {
        if (still) return
        const px = at(event)
        const below = axisPanel(px)
        const panel = below >= 0 ? below : panelAt(hand.panels, px)
        if (panel < 0) return
        event.preventDefault()
        const factor = Math.exp(-event.deltaY * (event.deltaMode === 1 ? 0.05 : 0.0016))
        const start = hand.movedPanel === panel ? hand.movement : STILL
        hand.move(panel, zoomed(start, px, factor, below >= 0 ? 1 : factor))
    }

    /** A right click, or the menu key at what is being read. */
    function menuAt(event: MouseEvent): void {
        if (still) return
        event.preventDefault()
        const byKey = event.button !== 2 || (event.clientX === 0 && event.clientY === 0)
        const middle = { x: width / 2, y: height / 2 }
        hand.openMenu(byKey && event.detail === 0 ? (hand.reading?.px ?? middle) : at(event))
    }

    function double(event: MouseEvent): void {
        clearTimeout(waiting)
        if (!editAt(at(event)) && hand.reading) hand.pin()
    }

    /** Edit the text that stands at a place, of an axis or an entry of the legend too; false where none does. */
    function editAt(px: Place): boolean {
        clearTimeout(waiting)
        const box = layout?.boxes?.find((b) => TEXTS.includes(b.kind) && within(b.px, px, 2))
        if (box) {
            const series = hand.series.find((s) => s.id === box.series)
            const panel = hand.panels[box.panel]
            const text =
                box.kind === 'text' ? (series?.text ?? '') : box.kind === 'panel title' ? (panel?.title ?? '') : ''
            editing = {
                box: box.px,
                line: box.kind === 'text' ? box.line : (panel?.line ?? box.line),
                text,
                kind: box.kind as 'text'
            }
            hand.chosen = undefined
            if (box.kind === 'title') void titleWritten()
            return true
        }
        const axis = layout?.boxes?.find((b) => b.kind.endsWith('axis') && within(b.px, px, 2))
        const panel = axis && hand.panels[axis.panel]
        const which = axis?.kind.split(' ')[0] ?? ''
        if (axis && panel && ['x', 'y', 'right'].includes(which)) {
            const text = { x: panel.x.text, y: panel.y.text, right: panel.right?.text }[which as 'x' | 'y' | 'right']
            const [left, top, wide, high] = axis.px
            const level = which === 'x'
            editing = {
                box: level
                    ? [left, top + high - 18, Math.min(wide, 240), 18]
                    : [Math.max(left, 4), top + high / 2, 130, 18],
                line: panel.line,
                text: text ?? '',
                kind: 'axis',
                which
            }
            hand.chosen = undefined
            return true
        }
        const legend = layout?.boxes?.find((b) => b.kind === 'legend' && within(b.px, px, 1))
        if (legend) {
            const named = hand.series.filter((s) => s.panel === legend.panel && s.label)
            const row = Math.floor(((px.y - legend.px[1]) / legend.px[3]) * named.length)
            const series = named[Math.max(0, Math.min(row, named.length - 1))]
            if (!series) return false
            const each = legend.px[3] / named.length
            editing = {
                box: [legend.px[0], legend.px[1] + row * each, legend.px[2], each],
                line: series.line,
                text: series.label ?? '',
                kind: 'label',
                which: String(hand.itemOf(series).item)
            }
            hand.chosen = undefined
            return true
        }
        return false
    }

    /** What the title says in the script, mathematics and all; the field is empty until that is known. */
    async function titleWritten(): Promise<void> {
        const [line, before] = [hand.record?.line ?? 1, editing]
        try {
            const found = await api.dressing(hand.desk.script, line, line, line)
            if (editing === before && editing) editing = { ...editing, text: found.title ?? '' }
        } catch (reason) {
            hand.desk.say(wordsOf(reason))
        }
    }

    /** What stands there is replaced by what is typed. */
    function begin(input: HTMLInputElement): void {
        input.focus()
        input.select()
    }

    function edited(text: string): void {
        const was = editing
        editing = undefined
        if (!was || text === was.text) return
        if (was.kind === 'axis')
            void hand.write({ do: 'axis', line: was.line, more: { which: was.which ?? 'x', text } })
        else if (was.kind === 'label') {
            const quoted = (said: string) => `"${said.replaceAll('"', '”')}"`
            const others = hand.series.filter((one) => one.line === was.line).map((one) => quoted(one.label ?? ''))
            const which = others.length > 1 ? { item: Number(was.which), others } : {}
            void hand.write({ do: 'option', line: was.line, more: { name: 'label', value: quoted(text), ...which } })
        } else if (was.kind === 'text') void hand.write({ do: 'text', line: was.line, more: { text } })
        else
            void hand.write({
                do: 'heading',
                line: was.kind === 'title' ? (hand.record?.line ?? 0) : was.line,
                more: { which: was.kind === 'title' ? 'title' : 'panel', text }
            })
    }

    function key(event: KeyboardEvent): void {
        if (still || event.target !== paper) return
        const step = event.shiftKey ? 0.1 : 0.01
        const panel = hand.reading?.panel ?? 0
        const window = hand.panels[panel]
        const start = hand.movedPanel === panel ? hand.movement : STILL
        const about =
            hand.reading?.px ??
            (window
                ? { x: window.bounds_px[0] + window.bounds_px[2] / 2, y: window.bounds_px[1] + window.bounds_px[3] / 2 }
                : { x: 0, y: 0 })
        const by = (dx: number, dy: number) => hand.move(panel, panned(start, dx, dy))
        const keys: Record<string, () => void> = {
            ArrowLeft: () => (event.altKey ? by(40, 0) : hand.step(-step, 0)),
            ArrowRight: () => (event.altKey ? by(-40, 0) : hand.step(step, 0)),
            ArrowUp: () => (event.altKey ? by(0, 40) : hand.step(0, -1)),
            ArrowDown: () => (event.altKey ? by(0, -40) : hand.step(0, 1)),
            '+': () => hand.move(panel, zoomed(start, about, 1.25, 1.25)),
            '=': () => hand.move(panel, zoomed(start, about, 1.25, 1.25)),
            '-': () => hand.move(panel, zoomed(start, about, 0.8, 0.8)),
            Home: () => hand.home(),
            k: () => void (hand.isZoomed && hand.keep()),
            p: () => hand.pin(),
            s: () => spanByKey(),
            f: () => (hand.chosen = { kind: 'figure', panel: 0, line: hand.record?.line ?? 0, at: { x: 20, y: 20 } }),
            x: () => (hand.chosen = { kind: 'x axis', panel, line: window?.line ?? 0, at: about }),
            y: () => (hand.chosen = { kind: 'y axis', panel, line: window?.line ?? 0, at: about }),
            t: () => hand.chooseText(),
            l: () => (hand.chosen = { kind: 'legend', panel, line: window?.line ?? 0, at: about }),
            Enter: () => hand.choosePen(),
            Escape: () => {
                hand.chosen = hand.span = hand.reading = undefined
                begun = undefined
            }
        }
        const space = hand.spacePanel
        if (space >= 0) {
            const view = hand.viewOf(space)
            const by5 = (dx: number, dy: number) => () =>
                hand.turn(space, turned(view, dx * (event.shiftKey ? 2 : 10), dy * (event.shiftKey ? 2 : 10)))
            Object.assign(keys, {
                ArrowLeft: by5(-1, 0),
                ArrowRight: by5(1, 0),
                ArrowUp: by5(0, -1),
                ArrowDown: by5(0, 1),
                a: () => hand.turn(space, VIEWS[0]?.view ?? view),
                f: () => hand.turn(space, VIEWS[1]?.view ?? view),
                d: () => hand.turn(space, VIEWS[2]?.view ?? view)
            })
        }
        const action = space >= 0 && '+=-sp'.includes(event.key) ? undefined : keys[event.key]
        if (!action || event.ctrlKey || event.metaKey) return
        event.preventDefault()
        action()
    }

    /** The first press begins a span at the reading, the second ends it. */
    let begun: Place | undefined
    function spanByKey(): void {
        const reading = hand.reading
        if (!reading) return
        if (!begun) {
            begun = reading.px
            return
        }
        hand.spanAlong(reading.panel, begun.x, reading.px.x, reading.px.y)
        begun = undefined
    }

    const said = $derived.by(() => {
        const r = hand.reading
        if (!r) return ''
        const slope = typeof r.slope === 'number' ? `, slope ${r.slope.toPrecision(4)}` : ''
        const panel = hand.panels[r.panel]
        if (!panel) return ''
        const upwards = r.series.right && panel.right ? panel.right : panel.y
        const name = r.series.label ? plain(r.series.label) : r.series.kind
        return `${name}: ${readOff(r.place.x, panel.x)}, ${readOff(r.place.y, upwards)}${slope}${r.finding ? `, finding ${r.finding}` : ''}`
    })
    const rubber = $derived.by(() => {
        if (!grip || (grip.kind !== 'window' && grip.kind !== 'span')) return undefined
        const bounds = hand.panels[grip.panel]?.bounds_px
        if (!bounds) return undefined
        const [x, w] = [Math.min(grip.from.x, grip.at.x), Math.abs(grip.at.x - grip.from.x)]
        return grip.kind === 'span'
            ? [x, bounds[1], w, bounds[3]]
            : [x, Math.min(grip.from.y, grip.at.y), w, Math.abs(grip.at.y - grip.from.y)]
    })
    const carried = $derived(
        grip && (grip.kind === 'legend' || grip.kind === 'text')
            ? [grip.box[0] + grip.at.x - grip.from.x, grip.box[1] + grip.at.y - grip.from.y, grip.box[2], grip.box[3]]
            : undefined
    )
</script>

{#snippet frame(box: number[] | undefined, look: string)}
    {#if box}
        <div
            class="pointer-events-none absolute {look}"
            style:left="{(box[0] ?? 0) * scale}px"
            style:top="{(box[1] ?? 0) * scale}px"
            style:width="{(box[2] ?? 0) * scale}px"
            style:height="{(box[3] ?? 0) * scale}px"
        ></div>
    {/if}
{/snippet}

{#if hand.shown}
    <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
    <div
        bind:this={paper}
        class="relative bg-white touch-none select-none"
        class:opacity-60={hand.shown.old}
        class:cursor-grabbing={grip?.kind === 'move' && dragged}
        style:width="{width * scale}px"
        style:height="{height * scale}px"
        style:box-shadow="var(--shadow)"
        style:filter={filter || null}
        role="application"
        tabindex="0"
        aria-label="{hand.shown.record.title || 'Figure'}: {hand.spacePanel >= 0
            ? 'arrow keys turn it, Home turns it back, Enter opens the pen'
            : 'arrow keys read values, plus and minus look closer, Enter opens the pen'}"
        aria-describedby="{uid}-description"
        onpointerdown={down}
        onpointermove={go}
        onpointerup={up}
        onpointercancel={() => (grip = undefined)}
        onpointerleave={() => !grip && hand.hover(undefined)}
        onwheel={wheel}
        ondblclick={double}
        oncontextmenu={menuAt}
        onkeydown={key}
        data-testid="sheet"
    >
        <img
            class="block h-full w-full bg-white"
            src={hand.shown.address}
            alt={hand.shown.record.description}
            draggable="false"
            data-testid="figure"
            data-figure={hand.shown.record.name}
        />
        {#if !isStill(hand.movement)}
            <Moving
                lines={hand.lines}
                series={hand.series}
                panels={hand.panels}
                panel={hand.movedPanel}
                movement={hand.movement}
                {width}
                {height}
            />
        {/if}
        {#if !still}
            {#each hand.panels as panel, k (k)}
                {#if panel.space}<SpaceView {hand} index={k} {panel} {scale} />{/if}
            {/each}
        {/if}
        {@render frame(rubber, 'border border-accent bg-[color-mix(in_srgb,var(--accent)_12%,transparent)]')}
        {@render frame(carried, 'border border-dashed border-accent')}
        {#if hand.reading}
            <div
                class="pointer-events-none absolute h-[9px] w-[9px] -translate-x-1/2 -translate-y-1/2 rounded-full border-2 border-white"
                style:background={hand.reading.series.colour}
                style:outline="1px solid #20242c"
                style:left="{hand.reading.px.x * scale}px"
                style:top="{hand.reading.px.y * scale}px"
            ></div>
            {@const panel = hand.panels[hand.reading.panel]}
            {#if hand.reading.found}
                <svg
                    class="pointer-events-none absolute -translate-x-1/2 -translate-y-1/2 overflow-visible"
                    style:left="{hand.reading.px.x * scale}px"
                    style:top="{hand.reading.px.y * scale}px"
                    width="28"
                    height="26"
                    viewBox="0 0 28 26"
                    aria-hidden="true"
                >
                    <path d="M8 1H2v24h6M20 1h6v24h-6" fill="none" stroke="#20242c" stroke-width="1.6" />
                </svg>
            {/if}
            {#if panel}<Readout reading={hand.reading} {panel} {scale} />{/if}
        {/if}
        {#each hand.pins as pinned, k (k)}
            {@const panel = hand.panels[pinned.panel]}
            {#if panel}
                <Readout
                    reading={pinned}
                    {panel}
                    {scale}
                    pinned
                    onmark={() => hand.markPin(pinned)}
                    onclose={() => hand.unpin(pinned)}
                />
            {/if}
        {/each}
        {#if hand.span}
            {@const panel = hand.panels[hand.span.panel]}
            {#if panel}<SpanMenu {hand} span={hand.span} {panel} {scale} />{/if}
        {/if}
        {#if hand.menu && paper}
            <StageMenu
                origin={paper.getBoundingClientRect()}
                {hand}
                menu={hand.menu}
                {scale}
                onedit={() => hand.menu && editAt(hand.menu.px)}
                onclose={() => (hand.menu = undefined)}
            />
        {/if}
        {#if editing}
            <input
                class="bg-raised border-accent absolute z-20 rounded-sm border px-1 font-serif text-[14px] text-[#20242c]"
                style:left="{editing.box[0] * scale - 4}px"
                style:top="{editing.box[1] * scale - 5}px"
                style:width="{Math.max(editing.box[2] * scale + 60, 120)}px"
                value={editing.text}
                aria-label="The text itself"
                {@attach begin}
                onblur={(e) => edited(e.currentTarget.value)}
                onkeydown={(e) => {
                    if (e.key === 'Enter') e.currentTarget.blur()
                    if (e.key === 'Escape') editing = undefined
                    e.stopPropagation()
                }}
                onpointerdown={(e) => e.stopPropagation()}
            />
        {/if}
        <p class="sr-only" aria-live="polite">{said}</p>
        <p class="sr-only" id="{uid}-description">{hand.shown.record.description}</p>
    </div>
{/if}

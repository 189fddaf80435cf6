<script lang="ts">
    import { onDestroy, tick, untrack } from 'svelte'
    import { SvelteMap } from 'svelte/reactivity'
    import { wordsOf } from '../../lib/faults'
    import { api } from '../../api/client'
    import { plain, readOff, type Axis, type Panel, type Place } from './geometry'
    import type { Hand } from './hand.svelte'
    import {
        axesOf,
        boxOf,
        edgesOf,
        fitted,
        project,
        ticksOf,
        tickText,
        turned,
        type Frame,
        type Vector
    } from './space/camera'
    import { cutsOf } from './space/cut'
    import type { Painter } from './space/painter'
    import { hitAt, type Hit, type Seen } from './space/pick'
    import { windowOf, type SpaceWindow } from './space/scene'

    interface Props {
        hand: Hand
        index: number
        panel: Panel
        scale: number
    }
    let { hand, index, panel, scale }: Props = $props()

    const CLICK_PX = 4
    const HOVER_MS = 60
    const SAME = 0.51 // degrees

    let canvas: HTMLCanvasElement | undefined = $state()
    let canvases = $state(0)
    let stage: HTMLDivElement | undefined = $state()
    let window_ = $state.raw<SpaceWindow | undefined>(undefined)
    let painter = $state.raw<Painter | undefined>(undefined)
    let missing = $state(false)
    let zoom = $state(1)
    let shift = $state.raw<Place>({ x: 0, y: 0 })
    let moving = $state(false)
    let held = $state.raw<{ from: Place; at: Place; moved: boolean; shifts: boolean } | undefined>(undefined)
    let hit = $state.raw<(Hit & { at: Place; exact: boolean }) | undefined>(undefined)
    let pinned = $state.raw<(Hit & { exact: boolean }) | undefined>(undefined)
    const fingers = new SvelteMap<number, Place>()

    const space = $derived(panel.space as NonNullable<Panel['space']>)
    const [left, top, width, height] = $derived(panel.bounds_px)
    const axes3 = $derived([panel.x, panel.y, panel.z ?? panel.y])
    const frame = $derived<Frame>({
        box: axes3.map((a: Axis) => [a.low, a.high]) as Frame['box'],
        proportions: space.proportions,
        factor: space.factor,
        origin: space.origin
    })
    const view = $derived(hand.viewOf(index))
    const plane = $derived(hand.plane?.panel === index ? hand.plane : undefined)
    const looking = $derived(zoom !== 1 || shift.x !== 0 || shift.y !== 0)
    const away = $derived(
        Math.abs(view.azimuth - space.azimuth) % 360 > SAME || Math.abs(view.elevation - space.elevation) > SAME
    )
    /** Whether the drawing on screen stands in for the one in print. */
    const live = $derived(painter !== undefined && (away || looking || plane !== undefined || (held?.moved ?? false)))
    /** Whether only the box is drawn, since nothing here can draw what is in it. */
    const bare = $derived(missing && away)
    /** The box where it stands now: as in print, or so that it fits while it is turned. */
    const stands = $derived(away ? fitted(frame, axesOf(view), [width, height]) : frame)
    const cut = $derived(plane && window_ ? cutsOf(window_, plane) : [])
    const seen = $derived<Seen>({ frame: stands, view, zoom, shift, fine: !moving && !held?.moved, plane, cut })

    let loading: string | undefined
    async function load(): Promise<void> {
        const record = hand.desk.recordId()
        const name = hand.base?.record.name
        if (record === undefined || name === undefined || !canvas) return
        const key = `${record} ${name} ${index}`
        if (loading === key) return
        loading = key
        try {
            const [told, { Painter: Made, webglThere }] = await Promise.all([
                api.scene(record, name),
                import('./space/painter')
            ])
            if (loading !== key || !canvas) return
            const found = await windowOf(told, index)
            if (!found || loading !== key || !canvas) return
            closePainter()
            await tick()
            if (loading !== key || !canvas) return
            window_ = found
            if (!webglThere()) {
                // The server turns it: each rest of the hand is a drawing anew, and until then the box shows where it goes.
                missing = true
                return
            }
            painter = new Made(canvas, found, frame, [width, height], scale * devicePixelRatio)
        } catch (reason) {
            loading = undefined
            hand.desk.say(wordsOf(reason))
        }
    }

    function closePainter(): void {
        if (!painter) return
        painter.close()
        painter = undefined
        canvases += 1
    }

    /** Another run, another size: the shapes are fetched anew when they are next touched. */
    $effect(() => {
        void [hand.base?.address, scale, width, height]
        untrack(() => {
            closePainter()
            window_ = undefined
            loading = undefined
            hit = undefined
            if (away || looking || plane) void load()
        })
    })
    $effect(() => {
        if (plane && !window_) void load()
    })
    let drawn = 0
    $effect(() => {
        const [now, with_] = [seen, painter]
        if (!with_ || !live) return
        cancelAnimationFrame(drawn)
        drawn = requestAnimationFrame(() => with_.draw(now))
    })
    onDestroy(() => {
        cancelAnimationFrame(drawn)
        clearTimeout(resting)
        clearTimeout(reading)
        painter?.close()
    })

    function at(event: MouseEvent): Place {
        const box = (stage as HTMLElement).getBoundingClientRect()
        return { x: (event.clientX - box.left) / scale, y: (event.clientY - box.top) / scale }
    }

    let resting: ReturnType<typeof setTimeout> | undefined
    function stir(): void {
        moving = true
        clearTimeout(resting)
        resting = setTimeout(() => (moving = false), 250)
    }

    function down(event: PointerEvent): void {
        if (event.button > 1) return
        event.stopPropagation()
        ;(stage?.closest('[data-testid="sheet"]') as HTMLElement | null)?.focus()
        void load()
        const px = at(event)
        fingers.set(event.pointerId, px)
        stage?.setPointerCapture(event.pointerId)
        held =
            fingers.size > 1
                ? undefined
                : { from: px, at: px, moved: false, shifts: event.shiftKey || event.button === 1 }
        hit = undefined
    }

    function go(event: PointerEvent): void {
        event.stopPropagation()
        const px = at(event)
        const before = fingers.get(event.pointerId)
        if (fingers.size === 2 && before) {
            pinch(event.pointerId, before, px)
            return
        }
        if (!held) {
            void load()
            hover(px)
            return
        }
        const [dx, dy] = [px.x - held.at.x, px.y - held.at.y]
        const moved = held.moved || Math.hypot(px.x - held.from.x, px.y - held.from.y) * scale > CLICK_PX
        held = { ...held, at: px, moved }
        if (!moved) return
        stir()
        pinned = undefined
        if (held.shifts) shift = { x: shift.x + dx, y: shift.y + dy }
        else hand.turn(index, turned(view, dx * Math.min(scale, 1.5), dy * Math.min(scale, 1.5)))
    }

    function pinch(finger: number, before: Place, px: Place): void {
        const other = [...fingers].find(([id]) => id !== finger)?.[1]
        fingers.set(finger, px)
        if (!other) return
        const [was, is] = [
            Math.hypot(before.x - other.x, before.y - other.y),
            Math.hypot(px.x - other.x, px.y - other.y)
        ]
        stir()
        if (was > 8 && is > 8) closer(is / was, { x: (px.x + other.x) / 2, y: (px.y + other.y) / 2 })
        shift = { x: shift.x + (px.x - before.x) / 2, y: shift.y + (px.y - before.y) / 2 }
    }

    function up(event: PointerEvent): void {
        event.stopPropagation()
        fingers.delete(event.pointerId)
        const was = held
        held = undefined
        if (!was || was.moved) return
        const found = under(was.at)
        if (found) {
            const mine = { ...found, exact: false }
            pinned = mine
            void exactly(found, (place) => {
                if (pinned === mine) pinned = { ...mine, place, exact: true }
            })
        } else {
            pinned = undefined
            hand.choose({ x: left + was.at.x, y: top + was.at.y })
        }
    }

    function under(px: Place): Hit | undefined {
        return window_ && hitAt(window_, frame, height, px, seen)
    }

    function wheel(event: WheelEvent): void {
        event.preventDefault()
        event.stopPropagation()
        void load()
        if (missing) return
        stir()
        closer(Math.exp(-event.deltaY * (event.deltaMode === 1 ? 0.05 : 0.0016)), at(event))
    }

    function closer(factor: number, about: Place): void {
        const next = Math.max(0.4, Math.min(12, zoom * factor))
        const by = next / zoom
        const middle = { x: stands.origin[0] + shift.x, y: height - stands.origin[1] + shift.y }
        shift = {
            x: shift.x + (about.x - middle.x) * (1 - by),
            y: shift.y + (about.y - middle.y) * (1 - by)
        }
        zoom = Math.abs(next - 1) < 0.02 ? 1 : next
        if (zoom === 1) shift = { x: 0, y: 0 }
    }

    function whole(): void {
        zoom = 1
        shift = { x: 0, y: 0 }
    }

    let reading: ReturnType<typeof setTimeout> | undefined
    function hover(px: Place): void {
        const found = under(px)
        hit = found && { ...found, at: px, exact: false }
        clearTimeout(reading)
        if (!found) return
        reading = setTimeout(() => {
            // Meanwhile the pointer may be elsewhere: the answer belongs to the place that was asked about.
            void exactly(found, (place) => {
                if (hit?.at === px) hit = { ...hit, place, exact: true }
            })
        }, HOVER_MS)
    }

    /** What the function itself says there. */
    async function exactly(found: Hit, then: (place: Vector) => void): Promise<void> {
        const record = hand.desk.recordId()
        const name = hand.base?.record.name
        const series = hand.series.find((s) => s.id === found.solid.id)
        if (record === undefined || name === undefined || !series?.exact) return
        try {
            const [x, y, z] = found.params ?? found.place
            const read = await api.read(record, name, found.solid.id, { x, y, ...(z === undefined ? {} : { z }) })
            if (typeof read.z === 'number') then([read.x, read.y, read.z])
        } catch {
            // What the triangle says stays.
        }
    }

    const projected = $derived.by(() => {
        if (!live && !bare) return undefined
        const axes = axesOf(view)
        const now = {
            ...stands,
            factor: stands.factor * zoom,
            origin: [stands.origin[0] + shift.x, stands.origin[1] - shift.y] as [number, number]
        }
        const place = (p: Vector) => project(now, axes, p, height)
        return { axes, now, place }
    })
    /** Numbers and texts along the edges of the box. */
    const labels = $derived.by(() => {
        if (!projected) return []
        const { now, axes, place } = projected
        const { edges } = edgesOf(now, axes)
        const middle = place(now.box.map(([a, b]) => (a + b) / 2) as Vector)
        return edges.flatMap(([first, last], k) => {
            const [p, q] = [place(first), place(last)]
            const length = Math.hypot(q.x - p.x, q.y - p.y)
            if (length < 16) return []
            let out = { x: -(q.y - p.y) / length, y: (q.x - p.x) / length }
            if (((p.x + q.x) / 2 - middle.x) * out.x + ((p.y + q.y) / 2 - middle.y) * out.y < 0)
                out = { x: -out.x, y: -out.y }
            const [low, high] = now.box[k] as [number, number]
            const ticks = ticksOf(low, high, length)
            const numbers = ticks.map((t) => {
                const share = (t - low) / (high - low)
                const at = { x: p.x + (q.x - p.x) * share, y: p.y + (q.y - p.y) * share }
                return { text: tickText(t, ticks), x: at.x + out.x * 13, y: at.y + out.y * 11, strong: false, turn: 0 }
            })
            const text = plain(window_?.axes[k]?.text ?? axes3[k]?.text)
            // A long text runs along its edge.
            const long = text.length > 5
            const angle = (Math.atan2(q.y - p.y, q.x - p.x) * 180) / Math.PI
            const turn = long ? (k === 2 ? -90 : ((angle + 270) % 180) - 90) : 0
            const away_ = long ? 32 : 34
            return [
                ...numbers,
                {
                    text,
                    x: (p.x + q.x) / 2 + out.x * away_,
                    y: (p.y + q.y) / 2 + out.y * (long ? 30 : 28),
                    strong: true,
                    turn
                }
            ]
        })
    })
    const names = $derived(
        axes3.map(
            (a, k) =>
                plain(window_?.axes[k]?.text ?? a.text)
                    .split('/')[0]
                    ?.trim() || 'xyz'[k]
        )
    )
    $effect(() => {
        if (plane && window_) hand.slid = cut
    })
    const shownPin = $derived(
        pinned && (projected ?? { place: (p: Vector) => project(frame, axesOf(view), p, height) }).place(pinned.place)
    )
</script>

{#snippet place(values: Vector, exact: boolean)}
    {#each values as value, k (k)}
        <div><span class="text-ink-soft">{names[k]}</span> {readOff(value, axes3[k] as Axis)}</div>
    {/each}
    {#if !exact}<div class="text-ink-soft text-[11px]">of the triangle drawn</div>{/if}
{/snippet}

<!-- svelte-ignore a11y_no_static_element_interactions -->
<div
    bind:this={stage}
    class="absolute touch-none overflow-hidden {held?.moved ? 'cursor-grabbing' : 'cursor-grab'}"
    style:left="{left * scale}px"
    style:top="{top * scale}px"
    style:width="{width * scale}px"
    style:height="{height * scale}px"
    onpointerdown={down}
    onpointermove={go}
    onpointerup={up}
    onpointercancel={() => ((held = undefined), fingers.clear())}
    onpointerleave={() => !held && (hit = undefined)}
    onwheel={wheel}
    ondblclick={(event) => event.stopPropagation()}
    data-testid="space"
    data-live={live}
    data-ready={window_ !== undefined}
    data-azimuth={view.azimuth}
    data-elevation={view.elevation}
>
    <!-- A painter gives its context away when it is closed: each has a canvas of its own. -->
    {#key canvases}
        <canvas bind:this={canvas} class="absolute inset-0 h-full w-full {live ? '' : 'invisible'}" aria-hidden="true"
        ></canvas>
    {/key}
    {#if bare && projected}
        <svg class="absolute inset-0 h-full w-full bg-white" data-testid="space-box" aria-hidden="true">
            {#each boxOf(projected.now, projected.axes) as [from, to], k (k)}
                {@const [p, q] = [projected.place(from), projected.place(to)]}
                <line x1={p.x * scale} y1={p.y * scale} x2={q.x * scale} y2={q.y * scale} stroke="#a9aba8" />
            {/each}
        </svg>
    {/if}
    {#each labels as label, k (k)}
        <span
            class="pointer-events-none absolute -translate-x-1/2 -translate-y-1/2 font-serif whitespace-nowrap text-[#20242c]"
            style:left="{label.x * scale}px"
            style:top="{label.y * scale}px"
            style:font-size="{(label.strong ? 10.6 : 9.3) * scale}px"
            style:rotate="{label.turn}deg">{label.text}</span
        >
    {/each}
    {#if hit && !held}
        <div
            class="bg-raised border-rule-strong pointer-events-none absolute z-10 rounded-[3px] border px-2 py-1 font-mono text-[12.5px] leading-[1.35] whitespace-nowrap"
            style:left="{hit.at.x * scale + (hit.at.x > width * 0.6 ? -12 : 14)}px"
            style:top="{hit.at.y * scale - 8}px"
            style:transform="translate({hit.at.x > width * 0.6 ? '-100%' : '0'}, {hit.at.y < height * 0.3
                ? '0'
                : '-100%'})"
            style:box-shadow="var(--shadow)"
            data-testid="space-reading"
        >
            {#if hit.solid.label}<div class="text-ink-soft max-w-[220px] truncate font-sans">
                    {hit.solid.label}
                </div>{/if}
            {@render place(hit.place, hit.exact)}
        </div>
    {/if}
    {#if pinned && shownPin}
        <div
            class="pointer-events-none absolute h-[9px] w-[9px] -translate-x-1/2 -translate-y-1/2 rounded-full border-2 border-white bg-[#20242c]"
            style:left="{shownPin.x * scale}px"
            style:top="{shownPin.y * scale}px"
        ></div>
        <div
            class="bg-raised border-rule-strong absolute z-10 rounded-[3px] border px-2 py-1 font-mono text-[12.5px] leading-[1.35] whitespace-nowrap"
            style:left="{shownPin.x * scale + (shownPin.x > width * 0.55 ? -12 : 12)}px"
            style:top="{shownPin.y * scale + (shownPin.y < height * 0.45 ? 10 : -10)}px"
            style:transform="translate({shownPin.x > width * 0.55 ? '-100%' : '0'}, {shownPin.y < height * 0.45
                ? '0'
                : '-100%'})"
            style:box-shadow="var(--shadow)"
            onpointerdown={(event) => event.stopPropagation()}
            onpointerup={(event) => event.stopPropagation()}
            data-testid="space-pinned"
        >
            {@render place(pinned.place, pinned.exact)}
            <div class="mt-1 flex gap-1 font-sans">
                <button
                    class="quiet !px-1"
                    title="Write this place into the script as a mark"
                    onclick={async () => {
                        if (pinned && (await hand.markPlace(index, pinned.place))) pinned = undefined
                    }}>Ink as a mark</button
                >
                <button
                    class="quiet !px-1"
                    title="Colour, level lines, label of this surface"
                    onclick={() => {
                        const series = hand.series.find((s) => s.id === pinned?.solid.id)
                        if (series)
                            hand.chosen = {
                                kind: 'series',
                                panel: index,
                                line: series.line,
                                series,
                                at: { x: left, y: top }
                            }
                        pinned = undefined
                    }}>Pen</button
                >
                <button class="quiet !px-1" aria-label="Take this reading away" onclick={() => (pinned = undefined)}
                    >Close</button
                >
            </div>
        </div>
    {/if}
    {#if looking}
        <button
            class="quiet absolute right-1 bottom-1 z-10 bg-white/80 text-[12.5px]"
            title="The whole box again"
            onpointerdown={(event) => event.stopPropagation()}
            onpointerup={(event) => event.stopPropagation()}
            onclick={whole}>Whole box</button
        >
    {/if}
</div>

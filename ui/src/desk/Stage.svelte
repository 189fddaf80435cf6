<script lang="ts">
    import { onDestroy, untrack } from 'svelte'
    import type { StartShown } from '../api/client'
    import { follow } from '../lib/router.svelte'
    import type { ShownFigure } from './desk.svelte'
    import { Hand, type HandDesk } from './stage/hand.svelte'
    import FitSheet from './stage/FitSheet.svelte'
    import Pen from './stage/Pen.svelte'
    import PlaneSheet from './stage/PlaneSheet.svelte'
    import Print, { CALIBRATION_KEY } from './stage/Print.svelte'
    import Ruler from './stage/Ruler.svelte'
    import Sheet from './stage/Sheet.svelte'
    import { VIEWS } from './stage/space/camera'

    interface Props {
        figures: ShownFigure[]
        figure: ShownFigure | undefined
        desk: HandDesk
        inks: { name: string; code: string }[]
        walking?: boolean
        empty: boolean
        /** Starting points for an empty desk. */
        starts: StartShown[]
        onstart: (script: string) => void
        large: boolean
        onlarge: (large: boolean) => void
        onchoose: (name: string) => void
        online: (line: number) => void
        /** The stage shows another window or view than the script says, and how that is written down; or no more. */
        onlook: (keep: (() => void) | undefined) => void
    }
    let {
        figures,
        figure,
        desk,
        inks,
        walking = false,
        empty,
        starts,
        onstart,
        large,
        onlarge,
        onchoose,
        online,
        onlook
    }: Props = $props()

    const PX_PER_MM = 96 / 25.4
    const LARGEST = 2.2 // times the printed size
    const PEN = 268 // what the pen takes of the width
    const MODES = [
        { id: 'move', label: 'Move', note: 'Drag moves the drawing; the wheel looks closer' },
        { id: 'window', label: 'Window', note: 'Drag a window to look closer (Shift does the same at any time)' },
        { id: 'span', label: 'Span', note: 'Drag along the horizontal axis to ask about a span' }
    ] as const

    // svelte-ignore state_referenced_locally
    const hand = new Hand(desk)
    // svelte-ignore state_referenced_locally
    const second = new Hand(desk)
    onDestroy(() => {
        hand.close()
        second.close()
    })

    let width = $state(0)
    let height = $state(0)
    let mode = $state<'move' | 'window' | 'span'>('move')
    let printing = $state(false)
    let fitting = $state.raw<{ hand: Hand; at: { line: number; window: number } } | undefined>(undefined)
    let look = $state('')
    let millimetre = $state(Number(localStorage.getItem(CALIBRATION_KEY)) || PX_PER_MM)
    let besides = $state<string | undefined>(undefined)

    const beside = $derived(besides === undefined ? undefined : figures.find((f) => f.record.name === besides))
    const number = $derived(figure ? figures.findIndex((f) => f.record.name === figure.record.name) + 1 : 0)

    $effect(() => {
        const wanted = figure
        untrack(() => void hand.take(wanted))
    })
    $effect(() => {
        const keep = hand.isZoomed ? () => void hand.keep() : undefined
        untrack(() => onlook(keep))
    })
    $effect(() => {
        const wanted = beside
        untrack(() => void second.take(wanted))
    })

    function scaleOf(of: Hand, share: number): number {
        const layout = of.record?.layout
        if (!layout) return 1
        if (printing) return millimetre / PX_PER_MM
        const room = [
            (width / share - 48 - ((of.chosen || of.plane) && share === 1 ? PEN : 0)) / (layout.width_mm * PX_PER_MM),
            (height - 24) / (layout.height_mm * PX_PER_MM)
        ]
        return Math.max(0.2, Math.min(large ? 4 : LARGEST, ...room))
    }
    const scale = $derived(scaleOf(hand, beside ? 2 : 1))
    const secondScale = $derived(scaleOf(second, 2))

    function title(of: ShownFigure): string {
        return of.record.title || `from line ${of.record.line}`
    }

    function calibrate(px: number): void {
        millimetre = px
        localStorage.setItem(CALIBRATION_KEY, String(px))
    }

    function slide(): void {
        const panel = hand.panels[hand.spacePanel]
        if (hand.plane || !panel?.z) hand.plane = undefined
        else hand.plane = { panel: hand.spacePanel, axis: 2, value: (panel.z.low + panel.z.high) / 2 }
    }

    function nextBeside(): void {
        if (beside) besides = undefined
        else besides = figures.find((f) => f.record.name !== figure?.record.name)?.record.name
    }
</script>

<section class="bg-table flex h-full flex-col" class:large aria-label="Stage">
    {#if figure}
        <div class="flex items-center gap-x-3 gap-y-1 px-4 pt-2 pb-1">
            <h2 class="shrink-0 font-serif text-[15px] font-semibold">Figure {number}</h2>
            <span class="text-ink-soft min-w-[40px] flex-1 truncate" title={title(figure)}>{title(figure)}</span>
            {#if walking}<span class="text-ink-soft shrink-0 text-[13px]">as it is built</span>{/if}
            {#if figure.old}<span class="text-mistake shrink-0 text-[13px]"
                    >from before: its drawing has a mistake now</span
                >{/if}
            {#if !walking && !figure.old}
                {#if hand.isZoomed}
                    <button
                        class="quiet text-[13px]"
                        onclick={() => hand.home()}
                        title="Back to the script's window (Home)">Home</button
                    >
                    <button
                        class="quiet text-[13px]"
                        onclick={() => hand.keep()}
                        title="Write this window into the script (k)">Keep</button
                    >
                {/if}
                {#if hand.spacePanel >= 0}
                    <div class="flex shrink-0 gap-1 text-[13px]" role="group" aria-label="Seen from">
                        {#each VIEWS as one (one.label)}
                            <button
                                class="quiet !px-2"
                                title={one.note}
                                onclick={() => hand.turn(hand.spacePanel, one.view)}>{one.label}</button
                            >
                        {/each}
                        <button
                            class="quiet !px-2"
                            aria-pressed={hand.plane !== undefined}
                            title="Slide a plane through the surface and see its section"
                            onclick={() => slide()}>Plane</button
                        >
                    </div>
                {:else}
                    <div class="flex shrink-0 text-[13px]" role="radiogroup" aria-label="What dragging does">
                        {#each MODES as one (one.id)}
                            <button
                                class="tab !px-2"
                                role="radio"
                                aria-checked={mode === one.id}
                                data-state={mode === one.id ? 'active' : ''}
                                title={one.note}
                                onclick={() => (mode = one.id)}>{one.label}</button
                            >
                        {/each}
                    </div>
                {/if}
            {/if}
            <div class="flex shrink-0 gap-1 text-[13px]">
                {#if figures.length > 1}
                    <button
                        class="quiet"
                        aria-pressed={beside !== undefined}
                        title="Another figure beside this one"
                        onclick={nextBeside}>{beside ? 'One only' : 'Beside'}</button
                    >
                {/if}
                <button
                    class="quiet"
                    aria-pressed={printing}
                    title="At true size, and as others see it"
                    onclick={() => ((printing = !printing), (look = ''))}>{printing ? 'Screen size' : 'Print'}</button
                >
                <button
                    class="quiet"
                    aria-pressed={large}
                    title="The figure on the whole stage"
                    onclick={() => onlarge(!large)}>{large ? 'Small' : 'Large'}</button
                >
            </div>
            <span class="text-ink-soft shrink-0 text-[13px]"
                >{figure.record.layout.width_mm} × {figure.record.layout.height_mm} mm</span
            >
        </div>
        {#if printing}
            <Print {look} {millimetre} onlook={(l) => (look = l)} onmillimetre={calibrate} />
        {/if}
        <div class="relative min-h-0 flex-1 {printing ? 'overflow-auto' : 'overflow-hidden'}">
            <div
                class="flex min-h-full items-center justify-center gap-6 {printing ? 'min-w-max p-4' : 'h-full'}"
                style:padding-right={(hand.chosen || hand.plane) && !beside && !walking ? `${PEN}px` : null}
                bind:offsetWidth={width}
                bind:offsetHeight={height}
            >
                {#if printing && hand.record}
                    <div class="grid grid-cols-[22px_auto] grid-rows-[22px_auto]">
                        <span></span>
                        <Ruler length={hand.record.layout.width_mm} {millimetre} />
                        <Ruler length={hand.record.layout.height_mm} {millimetre} upright />
                        <Sheet
                            {hand}
                            {scale}
                            {mode}
                            filter={look ? `url(#seen-${look})` : ''}
                            still={walking || figure.old}
                        />
                    </div>
                {:else}
                    <Sheet {hand} {scale} {mode} still={walking || figure.old} />
                {/if}
                {#if beside}
                    <Sheet
                        hand={second}
                        scale={secondScale}
                        {mode}
                        filter={look ? `url(#seen-${look})` : ''}
                        still={beside.old}
                    />
                {/if}
            </div>
            {#if hand.plane && !hand.chosen && !walking}
                <div class="absolute top-2 right-3 bottom-2 z-30 overflow-y-auto"><PlaneSheet {hand} /></div>
            {/if}
            {#each [hand, second] as one, k (k)}
                {#if one.chosen && !walking}
                    <div
                        class="absolute top-2 bottom-2 z-30 {k === 0 && !beside
                            ? 'right-3'
                            : k === 0
                              ? 'left-3'
                              : 'right-3'} flex items-start"
                    >
                        <Pen
                            hand={one}
                            chosen={one.chosen}
                            {inks}
                            {online}
                            onfit={(at) => {
                                one.chosen = undefined
                                fitting = { hand: one, at }
                            }}
                        />
                    </div>
                {/if}
            {/each}
        </div>
        {#if figure.record.notes.length || figure.record.caption}
            <ul
                class="text-ink-soft max-h-[4.4em] shrink-0 overflow-auto px-4 pt-1 text-[12.5px]"
                aria-label="Notes on the figure"
            >
                {#if figure.record.caption}<li class="font-serif text-[13.5px]">{figure.record.caption}</li>{/if}
                {#each figure.record.notes as note, i (i)}
                    <li>
                        <button class="quiet !px-0 !py-0" onclick={() => online(note.line)}>line {note.line}</button>
                        {note.text}
                    </li>
                {/each}
            </ul>
        {/if}
        <div class="flex shrink-0 gap-2 overflow-x-auto px-4 pt-2 pb-2" role="group" aria-label="Figures of this folio">
            {#each figures as other, i (other.record.name)}
                <button
                    class="shrink-0 border bg-white p-[3px] {other.record.name === figure.record.name
                        ? 'border-accent outline-accent outline-1'
                        : 'border-rule hover:border-rule-strong'}"
                    aria-current={other.record.name === figure.record.name}
                    aria-label="Figure {i + 1}: {title(other)}"
                    title="Figure {i + 1}: {title(other)} (Shift: beside this one)"
                    onclick={(event) => {
                        if (event.shiftKey && other.record.name !== figure?.record.name) besides = other.record.name
                        else onchoose(other.record.name)
                    }}
                >
                    <img class="block h-[38px] w-[56px] object-contain" src={other.address} alt="" />
                </button>
            {/each}
        </div>
    {:else}
        <div class="grid flex-1 place-items-center p-8">
            <div class="text-ink-soft max-w-sm font-serif text-[17px]">
                {#if walking}
                    <p>No figure yet at this step.</p>
                {:else if empty}
                    <p>The stage is empty. Begin with a few lines, and change them:</p>
                    <ul class="mt-3 grid grid-cols-2 gap-2">
                        {#each starts as start (start.title)}
                            <li>
                                <button
                                    class="border-rule bg-paper text-ink hover:border-accent w-full rounded-sm border px-3 py-2 text-left font-sans text-[14px]"
                                    title={start.script.trim()}
                                    onclick={() => onstart(start.script)}>{start.title}</button
                                >
                            </li>
                        {/each}
                    </ul>
                    <p class="mt-4 text-[15px]">
                        Or write what you want in your own words: a sentence that is not understood is answered by the
                        one to write. <a class="text-accent underline" href="/course" onclick={follow}
                            >The course takes an hour</a
                        >.
                    </p>
                {:else}
                    <p>
                        No figure yet. A line such as <code class="font-mono text-[14px]">curve of sin(x)</code> draws one.
                    </p>
                {/if}
            </div>
        </div>
    {/if}
</section>

<FitSheet
    folio={desk.id}
    script={desk.script}
    at={fitting?.at}
    onink={(action) => void fitting?.hand.write(action)}
    onclose={() => (fitting = undefined)}
/>

<style>
    .large {
        position: fixed;
        inset: 47px 0 0 0;
        z-index: 25;
        height: auto;
    }
</style>

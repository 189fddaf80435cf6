<script lang="ts">
    import type { Hand, SpanChosen } from './hand.svelte'
    import { plain, readOff, toPx, type Panel } from './geometry'

    interface Props {
        hand: Hand
        span: SpanChosen
        panel: Panel
        scale: number
    }
    let { hand, span, panel, scale }: Props = $props()

    const others = $derived(hand.others(span))
    const asks: { noun: string; label: string }[] = [
        { noun: 'roots', label: 'Roots here' },
        { noun: 'lowest', label: 'Lowest' },
        { noun: 'highest', label: 'Highest' },
        { noun: 'extremes', label: 'Turning points' },
        { noun: 'inflections', label: 'Inflections' },
        { noun: 'integral', label: 'Area' },
        { noun: 'mean', label: 'Mean value' },
        { noun: 'length', label: 'Length' },
        { noun: 'values', label: 'Values' },
        { noun: 'slope', label: 'Slope between the ends' }
    ]
    const offered = $derived(
        asks.filter((a) => a.noun === 'slope' || hand.desk.available(a.noun === 'slope' ? 'values' : a.noun))
    )
    const ends = $derived(
        [span.low, span.high].map((x) => toPx(panel, { x, y: panel.y.low }).x * scale) as [number, number]
    )
    const [, top, , height] = $derived(panel.bounds_px)
    /** Beside the span, so that the curve over it stays in sight: right of it where there is room, else left. */
    const beside = $derived.by(() => {
        const [low, high] = [Math.min(...ends), Math.max(...ends)]
        const edge = (panel.bounds_px[0] + panel.bounds_px[2]) * scale
        if (high + 238 < edge + 60) return high + 6
        return low > 200 ? low - 236 : high + 6
    })
    let first: HTMLButtonElement | undefined = $state()

    $effect(() => first?.focus({ preventScroll: true }))
</script>

<div
    class="span-area pointer-events-none absolute"
    style:left="{Math.min(...ends)}px"
    style:width="{Math.abs(ends[1] - ends[0])}px"
    style:top="{top * scale}px"
    style:height="{height * scale}px"
></div>
<div
    class="bg-raised border-rule absolute z-20 w-[230px] rounded-md border p-[5px] text-[13px]"
    style:left="{beside}px"
    style:top="{(top + 8) * scale}px"
    style:box-shadow="var(--shadow)"
    role="menu"
    tabindex="-1"
    aria-label="Ask about this span"
    data-testid="span"
    onpointerdown={(event) => event.stopPropagation()}
    onkeydown={(event) => {
        if (event.key === 'Escape') hand.span = undefined
    }}
>
    <p class="menu-note !pt-1">
        {plain(span.series.label) || 'the curve'} from {readOff(span.low, panel.x)} to {readOff(span.high, panel.x)}
    </p>
    <!-- Two beside each other, so that the whole menu stands within the stage. -->
    <div class="grid grid-cols-2">
        {#each offered as ask, k (ask.noun)}
            {#if k === 0}
                <button bind:this={first} class="span-item" role="menuitem" onclick={() => hand.ask(ask.noun, span)}
                    >{ask.label}</button
                >
            {:else}
                <button
                    class="span-item"
                    class:col-span-2={ask.noun === 'slope'}
                    role="menuitem"
                    onclick={() => hand.ask(ask.noun, span)}>{ask.label}</button
                >
            {/if}
        {/each}
    </div>
    {#each others.slice(0, 5) as other (other.id)}
        <button class="span-item" role="menuitem" onclick={() => hand.ask('crossings', span, other)}
            >Crossings with {plain(other.label) || `line ${other.line}`}</button
        >
    {/each}
    <div class="menu-rule"></div>
    <button class="span-item" role="menuitem" onclick={() => (hand.span = undefined)}>Leave it</button>
</div>

<style>
    .span-area {
        background: color-mix(in srgb, var(--accent) 13%, transparent);
        border-inline: 1px solid var(--accent);
    }
    .span-item {
        display: block;
        width: 100%;
        padding: 5px 9px;
        border-radius: 4px;
        text-align: left;
    }
    .span-item:hover,
    .span-item:focus-visible {
        background: var(--accent-wash);
    }
</style>

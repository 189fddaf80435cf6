<script lang="ts">
    import type { Seen } from '../lib/record'
    import { pathOf, rangeOf } from '../lib/closeup'
    import { numberText } from '../lib/numbers'

    interface Props {
        seen: Seen
        /** Whether the axis is drawn where the function is zero. */
        axis: boolean
        name: string
    }
    let { seen, axis, name }: Props = $props()

    const WIDTH = 148
    const HEIGHT = 84
    const range = $derived(rangeOf(seen.y, axis))
    const line = $derived(pathOf(seen.y, range, WIDTH, HEIGHT))
    const at = $derived(((seen.x - seen.low) / (seen.high - seen.low)) * WIDTH)
    const zero = $derived(HEIGHT - ((0 - range[0]) / (range[1] - range[0])) * HEIGHT)
    const half = $derived((seen.high - seen.low) / 2)
</script>

<figure class="m-0" data-testid="closeup">
    <svg
        width={WIDTH}
        height={HEIGHT}
        viewBox="0 0 {WIDTH} {HEIGHT}"
        role="img"
        aria-label="the function near {name} = {numberText(seen.x, 6)}"
    >
        <rect x="0.5" y="0.5" width={WIDTH - 1} height={HEIGHT - 1} class="ground" />
        {#if axis && zero > 1 && zero < HEIGHT - 1}<line x1="0" x2={WIDTH} y1={zero} y2={zero} class="axis" />{/if}
        <line x1={at} x2={at} y1="0" y2={HEIGHT} class="place" />
        <path d={line} class="line" />
    </svg>
    <figcaption class="text-ink-faint text-[11.5px]">
        {numberText(seen.x, 6)}, {numberText(2 * half, 2)} across
    </figcaption>
</figure>

<style>
    .ground {
        fill: var(--raised);
        stroke: var(--rule);
    }
    .axis {
        stroke: var(--rule-strong);
        stroke-width: 1;
    }
    .place {
        stroke: var(--rule-strong);
        stroke-dasharray: 2 3;
    }
    .line {
        fill: none;
        stroke: var(--accent);
        stroke-width: 1.6;
    }
</style>

<script lang="ts">
    import { frameOf, pathOf, type FitFound, type FitsFound } from './fits'

    interface Props {
        found: FitsFound
        fit: FitFound
        width: number
        height: number
        large?: boolean
    }
    let { found, fit, width, height, large = false }: Props = $props()

    const frame = $derived(frameOf(found, fit, width, height))
    const size = $derived(large ? 2.6 : 1.6)
</script>

<svg
    viewBox="0 0 {width} {height}"
    class="block w-full"
    role="img"
    aria-label="{fit.name}: points, curve and residuals"
>
    {#each found.x as x, k (k)}<circle cx={frame.x(x)} cy={frame.y(found.y[k] ?? 0)} r={size} class="point" />{/each}
    <path d={pathOf(...fit.curve, frame)} class="curve" stroke-width={large ? 1.8 : 1.4} />
    {#if fit.at && fit.at.value !== null && !fit.at.beyond}<circle
            cx={frame.x(fit.at.x)}
            cy={frame.y(fit.at.value)}
            r={size + 2}
            class="at"
        />{/if}
    <line x1="4" x2={width - 4} y1={frame.middle} y2={frame.middle} class="zero" />
    {#each fit.residuals as r, k (k)}<line
            x1={frame.x(found.x[k] ?? 0)}
            x2={frame.x(found.x[k] ?? 0)}
            y1={frame.middle}
            y2={frame.left(r)}
            class="residual"
            stroke-width={large ? 1.6 : 1}
        />{/each}
</svg>

<style>
    .point {
        fill: #20242c;
        opacity: 0.55;
    }
    .curve {
        fill: none;
        stroke: #2f4b9b;
    }
    .at {
        fill: none;
        stroke: #a63a1e;
        stroke-width: 1.6;
    }
    .zero {
        stroke: #8e939d;
        stroke-width: 0.6;
    }
    .residual {
        stroke: #a63a1e;
        opacity: 0.75;
    }
    svg {
        background: #fff;
        border-radius: 2px;
    }
</style>

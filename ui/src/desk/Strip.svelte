<script lang="ts">
    import { counted, placed, whyText, type Ruled } from '../lib/closeup'
    import { numberText } from '../lib/numbers'

    interface Props {
        strip: Ruled[]
        name: string
    }
    let { strip, name }: Props = $props()

    let pointed: number | undefined = $state()
    const spans = $derived(placed(strip))
    const one = $derived(pointed === undefined ? undefined : spans[pointed])
</script>

<div class="mt-2" data-testid="strip">
    <div class="strip" role="list" aria-label="spans that were looked at" onpointerleave={() => (pointed = undefined)}>
        {#each spans as span, i (i)}
            <span
                role="listitem"
                class="span {span.why}"
                class:pointed={pointed === i}
                style="left: {span.left}%; width: {span.width}%"
                title="{numberText(span.low, 6)} to {numberText(span.high, 6)}: {whyText(span.why)}"
                onpointerenter={() => (pointed = i)}
            ></span>
        {/each}
    </div>
    <div class="text-ink-faint flex justify-between text-[11.5px]">
        <span>{name} = {numberText(spans[0]?.low ?? 0, 6)}</span>
        <span>{numberText(Math.max(...spans.map((s) => s.high)), 6)}</span>
    </div>
    <p class="text-ink-soft mt-1 min-h-[20px] text-[12.5px]" aria-live="polite">
        {#if one}{numberText(one.low, 8)} to {numberText(one.high, 8)}: {whyText(one.why)}.{:else}{counted(strip)}.{/if}
    </p>
</div>

<style>
    .strip {
        position: relative;
        height: 22px;
        border: 1px solid var(--rule);
        background: var(--raised);
    }
    .span {
        position: absolute;
        top: 0;
        bottom: 0;
        border-right: 1px solid var(--raised);
        background: var(--table);
    }
    .span.monotone {
        background: repeating-linear-gradient(135deg, var(--rule) 0 2px, var(--table) 2px 5px);
    }
    .span.one,
    .span.flat {
        background: var(--accent);
    }
    .span.pointed {
        outline: 1.5px solid var(--ink);
        z-index: 1;
    }
</style>

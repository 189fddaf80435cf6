<script lang="ts">
    import type { Walk } from './walk.svelte'

    let { walk, onclose }: { walk: Walk; onclose: () => void } = $props()

    const last = $derived(walk.trace.steps.length - 1)
    const step = $derived(walk.step)
    let bar: HTMLElement | undefined = $state()

    $effect(() => {
        if (walk.ready) bar?.focus()
    })

    function key(event: KeyboardEvent): void {
        const moves: Record<string, () => void> = {
            ArrowRight: () => (event.shiftKey ? walk.toStop(1) : walk.go(walk.at + 1)),
            ArrowLeft: () => (event.shiftKey ? walk.toStop(-1) : walk.go(walk.at - 1)),
            Home: () => walk.go(0),
            End: () => walk.go(last),
            Escape: onclose
        }
        const move = moves[event.key]
        if (!move) return
        event.preventDefault()
        move()
    }
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<section
    class="border-rule bg-accent-wash flex items-center gap-2 border-b px-4 py-[5px] text-[13px]"
    aria-label="Walk"
    tabindex="0"
    bind:this={bar}
    onkeydown={key}
>
    {#if !walk.ready}
        <span role="status">Running the script for the walk</span>
    {:else}
        <button
            class="button !h-7"
            onclick={() => walk.go(walk.at - 1)}
            disabled={walk.at === 0}
            title="Step back (left arrow)">Back</button
        >
        <button
            class="button !h-7"
            onclick={() => walk.go(walk.at + 1)}
            disabled={walk.at === last}
            title="Step on (right arrow)">On</button
        >
        {#if walk.stops}
            <button
                class="button !h-7"
                onclick={() => walk.toStop(-1)}
                disabled={walk.at === 0}
                title="Back to the stop mark before (Shift left arrow)">Stop before</button
            >
            <button
                class="button !h-7"
                onclick={() => walk.toStop(1)}
                disabled={walk.at === last}
                title="On to the next stop mark (Shift right arrow)">Next stop</button
            >
        {/if}
        <input
            class="accent-accent mx-1 min-w-24 flex-1"
            type="range"
            min="0"
            max={last}
            value={walk.at}
            oninput={(e) => walk.go(Number(e.currentTarget.value))}
            aria-label="Step of the walk"
        />
        <span class="text-ink-soft w-[17ch] shrink-0 text-right tabular-nums" data-testid="walk-step"
            >step {walk.at + 1} of {last + 1}, line {step?.line ?? ''}</span
        >
        {#if step?.call}<span class="text-ink-soft max-w-[20ch] shrink-0 truncate">in {step.call}</span>{/if}
        {#if step?.note}<span class="text-ink max-w-[28ch] truncate">{step.note}</span>{/if}
        {#if walk.trace.thinned}<span
                class="text-caution shrink-0"
                title="{walk.trace.seen} statements were carried out; {last +
                    1} of them are kept, those with stop marks among them">thinned</span
            >{/if}
    {/if}
    <button class="button !h-7 shrink-0" onclick={onclose} title="End the walk (Escape)">End walk</button>
</section>

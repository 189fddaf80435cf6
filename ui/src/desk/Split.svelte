<script lang="ts">
    import type { Snippet } from 'svelte'

    interface Props {
        /** Under this name the share is remembered. */
        name: string
        label: string
        upright?: boolean
        first: number
        least: number
        most: number
        class?: string
        start: Snippet
        end: Snippet
    }
    let { name, label, upright = false, first, least, most, class: classes = '', start, end }: Props = $props()

    // svelte-ignore state_referenced_locally
    const key = `open-lemma-share-${name}`
    // svelte-ignore state_referenced_locally
    let share = $state(within(Number(localStorage.getItem(key) ?? first)))
    let box: HTMLElement | undefined = $state()
    let dragging = $state(false)

    function within(value: number): number {
        return Number.isFinite(value) ? Math.min(most, Math.max(least, value)) : first
    }

    function set(value: number): void {
        share = within(value)
        localStorage.setItem(key, String(share))
    }

    function drag(event: PointerEvent): void {
        if (!dragging || !box) return
        const bounds = box.getBoundingClientRect()
        set(upright ? (event.clientY - bounds.top) / bounds.height : (event.clientX - bounds.left) / bounds.width)
    }

    function grab(event: PointerEvent & { currentTarget: HTMLElement }): void {
        dragging = true
        event.currentTarget.setPointerCapture(event.pointerId)
        event.preventDefault()
    }

    function step(event: KeyboardEvent): void {
        const [back, on] = upright ? ['ArrowUp', 'ArrowDown'] : ['ArrowLeft', 'ArrowRight']
        if (event.key !== back && event.key !== on) return
        event.preventDefault()
        set(share + (event.key === on ? 0.02 : -0.02))
    }
</script>

<div bind:this={box} class="split {classes}" class:upright style:--first="{share * 100}%">
    <div class="min-h-0 min-w-0 overflow-hidden">{@render start()}</div>
    <!-- A separator that can be moved is a control, by the rules for accessible pages (WAI-ARIA 1.2, separator). -->
    <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
    <div
        class="bar"
        class:dragging
        role="separator"
        tabindex="0"
        aria-label={label}
        aria-orientation={upright ? 'horizontal' : 'vertical'}
        aria-valuenow={Math.round(share * 100)}
        aria-valuemin={Math.round(least * 100)}
        aria-valuemax={Math.round(most * 100)}
        onpointerdown={grab}
        onpointermove={drag}
        onpointerup={() => (dragging = false)}
        onpointercancel={() => (dragging = false)}
        onkeydown={step}
    ></div>
    <div class="min-h-0 min-w-0 overflow-hidden">{@render end()}</div>
</div>

<style>
    .split {
        display: grid;
        grid-template-columns: minmax(0, var(--first)) 1px minmax(0, 1fr);
        grid-template-rows: minmax(0, 1fr);
    }
    .split.upright {
        grid-template-columns: minmax(0, 1fr);
        grid-template-rows: minmax(0, var(--first)) 1px minmax(0, 1fr);
    }
    .bar {
        position: relative;
        background: var(--rule);
        cursor: col-resize;
        touch-action: none;
    }
    .upright > .bar {
        cursor: row-resize;
    }
    .bar::after {
        content: '';
        position: absolute;
        inset: 0 -4px;
        z-index: 5;
    }
    .upright > .bar::after {
        inset: -4px 0;
    }
    .bar:hover,
    .bar.dragging {
        background: var(--accent);
    }
</style>

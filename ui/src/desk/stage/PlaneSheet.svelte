<script lang="ts">
    import { plain, readOff, type Axis } from './geometry'
    import type { Hand } from './hand.svelte'

    let { hand }: { hand: Hand } = $props()

    const plane = $derived(hand.plane)
    const panel = $derived(plane && hand.panels[plane.panel])
    const axes = $derived(panel ? [panel.x, panel.y, panel.z ?? panel.y] : [])
    const names = $derived(axes.map((a, k) => plain(a.text).split('/')[0]?.trim() || 'xyz'.charAt(k)))
    const axis = $derived(plane && axes[plane.axis])
    const [WIDE, HIGH] = [230, 96]
    const SLIVER = 6
    /** The section in its own plane, as a path in a box of that size: to one scale, where that does not make a sliver of it. */
    const section = $derived.by(() => {
        if (!plane || axes.length < 3) return undefined
        const [i, j] = [0, 1, 2].filter((k) => k !== plane.axis) as [number, number]
        const [a, b] = [axes[i] as Axis, axes[j] as Axis]
        const own = [WIDE / (a.high - a.low), HIGH / (b.high - b.low)] as [number, number]
        const least = Math.min(...own)
        const alike = Math.max(...own) < SLIVER * least
        const [kx, ky] = alike ? [least, least] : own
        const x = (v: number) => (WIDE / 2 + (v - (a.low + a.high) / 2) * kx).toFixed(1)
        const y = (v: number) => (HIGH / 2 - (v - (b.low + b.high) / 2) * ky).toFixed(1)
        const piece = (p: number[]) => `${x(p[i] as number)} ${y(p[j] as number)}`
        return {
            d: hand.slid.map(([p, q]) => `M${piece(p)}L${piece(q)}`).join(''),
            across: names[i],
            up: names[j],
            alike
        }
    })

    function stand(across: number): void {
        const spec = axes[across]
        if (plane && spec) hand.plane = { panel: plane.panel, axis: across, value: (spec.low + spec.high) / 2 }
    }
</script>

{#if plane && axis}
    <div
        class="bg-raised border-rule-strong w-[252px] rounded-[4px] border px-3 py-2 text-[13px]"
        style:box-shadow="var(--shadow)"
        role="group"
        aria-label="A plane through the surface"
        data-testid="plane"
    >
        <div class="mb-1 flex items-baseline gap-2">
            <h3 class="flex-1 font-serif text-[15px] font-semibold">Plane</h3>
            <button class="quiet !px-1" aria-label="Take the plane away" onclick={() => (hand.plane = undefined)}
                >✕</button
            >
        </div>
        <div class="flex gap-1" role="radiogroup" aria-label="Across which axis the plane stands">
            {#each names as name, k (k)}
                <button
                    class="tab max-w-[84px] truncate !px-2"
                    role="radio"
                    aria-checked={plane.axis === k}
                    data-state={plane.axis === k ? 'active' : ''}
                    title="Across {name}"
                    onclick={() => stand(k)}>{name}</button
                >
            {/each}
        </div>
        <div class="mt-2 flex items-center gap-2">
            <input
                class="accent-accent min-w-0 flex-1"
                type="range"
                aria-label="Where the plane stands"
                min={axis.low}
                max={axis.high}
                step={(axis.high - axis.low) / 400}
                value={plane.value}
                oninput={(event) => {
                    hand.plane = { panel: plane.panel, axis: plane.axis, value: Number(event.currentTarget.value) }
                }}
            />
            <span class="w-[64px] text-right font-mono text-[12.5px]" data-testid="plane-at"
                >{readOff(plane.value, axis)}</span
            >
        </div>
        {#if section}
            <svg
                class="border-rule mt-2 block w-full border bg-white"
                viewBox="-4 -4 {WIDE + 8} {HIGH + 8}"
                role="img"
                aria-label="The section in its plane"
            >
                <path
                    d={section.d}
                    fill="none"
                    stroke="#20242c"
                    stroke-width="1.3"
                    stroke-linecap="round"
                    data-testid="section"
                />
            </svg>
            <p class="text-ink-soft mt-1 text-[12px]">
                {section.across} to the right, {section.up} upwards{section.alike ? ', to one scale' : ''}
            </p>
        {/if}
        <div class="mt-2 flex gap-2">
            <button
                class="button !h-7"
                title="Write the section into this figure"
                onclick={() => hand.inkSection(false)}>Ink here</button
            >
            <button
                class="button !h-7"
                title="Write the section as a figure of its own, in its true lengths"
                onclick={() => hand.inkSection(true)}>As a figure</button
            >
        </div>
    </div>
{/if}

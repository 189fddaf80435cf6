<script lang="ts">
    interface Props {
        /** Length in mm. */
        length: number
        millimetre: number
        upright?: boolean
    }
    let { length, millimetre, upright = false }: Props = $props()

    const marks = $derived(Array.from({ length: Math.floor(length) + 1 }, (_, k) => k))
    const size = $derived(length * millimetre + 1)
</script>

<svg
    class="text-ink-soft block"
    width={upright ? 22 : size}
    height={upright ? size : 22}
    aria-label="{upright ? 'Height' : 'Width'} in millimetres: {length}"
    role="img"
>
    {#each marks as mm (mm)}
        {@const tall = mm % 10 === 0 ? 9 : mm % 5 === 0 ? 6 : 3.5}
        {@const at = mm * millimetre + 0.5}
        <line
            x1={upright ? 22 : at}
            y1={upright ? at : 22}
            x2={upright ? 22 - tall : at}
            y2={upright ? at : 22 - tall}
            stroke="currentColor"
            stroke-width={mm % 10 === 0 ? 1 : 0.6}
        />
        {#if mm % 10 === 0 && (mm < length - 6 || mm === 0)}
            <text
                x={upright ? 10 : at + (mm === 0 ? 1 : 0)}
                y={upright ? at + (mm === 0 ? 9 : 3) : 10}
                font-size="8.5"
                text-anchor={mm === 0 && !upright ? 'start' : 'middle'}
                fill="currentColor">{mm}</text
            >
        {/if}
    {/each}
</svg>

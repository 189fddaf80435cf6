<script lang="ts">
    interface Props {
        /** What letting go will do, said while a file is held over the page. */
        promise: string
        ondrop: (file: File | undefined) => void
    }
    let { promise, ondrop }: Props = $props()

    let over = $state(false)
</script>

<svelte:window
    ondragover={(event) => {
        if (!event.dataTransfer?.types.includes('Files')) return
        event.preventDefault()
        over = true
    }}
    ondragleave={(event) => {
        if (!event.relatedTarget) over = false
    }}
    ondrop={(event) => {
        event.preventDefault()
        over = false
        ondrop(event.dataTransfer?.files[0])
    }}
/>

{#if over}
    <div
        class="border-accent bg-paper/85 text-accent pointer-events-none fixed inset-3 z-40 grid place-items-center rounded-lg border-2 border-dashed font-serif text-2xl"
    >
        {promise}
    </div>
{/if}

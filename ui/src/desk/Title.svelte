<script lang="ts">
    let { title, onrename }: { title: string; onrename: (title: string) => void } = $props()

    let input: HTMLInputElement | undefined = $state()

    function key(event: KeyboardEvent): void {
        if (!input) return
        if (event.key === 'Enter') input.blur()
        if (event.key === 'Escape') {
            input.value = title
            input.blur()
        }
    }

    function done(): void {
        if (!input) return
        onrename(input.value)
        if (!input.value.trim()) input.value = title
    }
</script>

<!-- The heading is read out; the field in it is for changing it. -->
<h1 class="min-w-0">
    <span class="sr-only">{title}</span>
    <input
        bind:this={input}
        value={title}
        maxlength="200"
        aria-label="Title of the folio"
        title="Click to rename"
        class="hover:border-rule focus:border-accent focus:bg-raised field-sizing-content max-w-[34vw] min-w-24 truncate rounded-sm border border-transparent px-1 py-[2px] font-serif text-[19px] font-semibold outline-none"
        onkeydown={key}
        onblur={done}
    />
</h1>

<script lang="ts">
    let { name = $bindable() }: { name: string } = $props()
</script>

<label class="text-ink-soft flex items-center gap-2"
    >kept as <input class="box font-mono text-[13px]" bind:value={name} aria-label="Name of the file" /></label
>

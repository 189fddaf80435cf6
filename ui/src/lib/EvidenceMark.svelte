<script lang="ts">
    import type { Evidence } from './record'

    let { evidence, word = true }: { evidence: Evidence; word?: boolean } = $props()
</script>

<span class="inline-flex items-center gap-2" title={word ? undefined : evidence}>
    <svg viewBox="0 0 10 10" width="10" height="10" aria-hidden="true" class="text-accent shrink-0">
        <rect x="0.75" y="0.75" width="8.5" height="8.5" fill="none" stroke="currentColor" stroke-width="1.5" />
        {#if evidence === 'proven'}
            <rect x="0" y="0" width="10" height="10" fill="currentColor" />
        {:else if evidence === 'checked'}
            <path d="M0 10V0h5v10z" fill="currentColor" />
        {/if}
    </svg>
    {#if word}<span>{evidence}</span>{:else}<span class="sr-only">{evidence}</span>{/if}
</span>

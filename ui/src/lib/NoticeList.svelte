<script lang="ts">
    import { notices } from './notices.svelte'
</script>

<div
    class="pointer-events-none fixed inset-x-0 bottom-10 z-50 flex flex-col items-center gap-2"
    role="status"
    aria-live="polite"
>
    {#each notices.list as notice (notice.id)}
        <div class="bg-ink text-paper pointer-events-auto flex items-center gap-4 rounded px-4 py-2 shadow-lg">
            <span>{notice.text}</span>
            {#if notice.action}
                {@const action = notice.action}
                <button
                    class="font-semibold underline underline-offset-2"
                    onclick={() => {
                        action.run()
                        notices.drop(notice.id)
                    }}>{action.label}</button
                >
            {/if}
        </div>
    {/each}
</div>

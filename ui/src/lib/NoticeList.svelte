<script lang="ts">
    import { notices } from './notices.svelte'
</script>

<div
    class="pointer-events-none fixed inset-x-0 bottom-10 z-50 flex max-h-[50vh] flex-col items-center gap-2 overflow-y-auto"
    role="status"
    aria-live="polite"
>
    {#each notices.list as notice (notice.id)}
        <!-- svelte-ignore a11y_no_static_element_interactions (the clock stands while somebody reads) -->
        <div
            class="bg-ink text-paper pointer-events-auto flex max-w-[min(90vw,720px)] items-center gap-4 rounded px-4 py-2 shadow-lg"
            onpointerenter={() => notices.hold(notice)}
            onpointerleave={() => notices.release(notice)}
            onfocusin={() => notices.hold(notice)}
            onfocusout={() => notices.release(notice)}
        >
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
            <button
                class="-mr-1 opacity-75 hover:opacity-100"
                aria-label="Dismiss"
                onclick={() => notices.drop(notice.id)}>×</button
            >
        </div>
    {/each}
</div>

<script lang="ts">
    import type { HandbookPage } from '../api/client'
    import type { Message } from '../lib/record'
    import type { Desk } from './desk.svelte'

    interface Props {
        desk: Desk
        /** What the cursor stands at. */
        atCursor: HandbookPage | undefined
        onpage: (page: string) => void
        onmessage: (message: Message) => void
    }
    let { desk, atCursor, onpage, onmessage }: Props = $props()

    const mistakes = $derived(desk.messages.filter((m) => m.severity === 'error'))
    const cautions = $derived(desk.messages.filter((m) => m.severity !== 'error'))
    const first = $derived(mistakes[0] ?? cautions[0])

    function counted(n: number, word: string): string {
        return n ? `${n} ${word}${n === 1 ? '' : 's'}` : ''
    }
    const said = $derived(
        [counted(mistakes.length, 'mistake'), counted(cautions.length, 'caution')].filter(Boolean).join(', ')
    )
    const seconds = $derived(
        desk.record ? `${desk.record.seconds < 0.01 ? '< 0.01' : desk.record.seconds.toFixed(2)} s` : ''
    )
</script>

<footer
    class="border-rule text-ink-soft flex h-7 shrink-0 items-center gap-5 border-t px-4 text-[12.5px]"
    aria-label="Status"
>
    {#if desk.running}
        <span role="status"
            >{desk.queued === undefined
                ? 'Running'
                : `Waiting for room, place ${desk.queued} in the queue`}{desk.progress
                ? `, ${desk.progress}`
                : ''}{desk.elapsed >= 0.5 ? `, ${desk.elapsed.toFixed(1)} s` : ''}</span
        >
    {:else if desk.record}
        <span data-testid="record">Record {desk.record.number}</span>
        <span>{seconds}</span>
        {#if desk.reused.length}<span title="Lines {desk.reused.join(', ')}: nothing that they rest on has changed"
                >{desk.reused.length} {desk.reused.length === 1 ? 'result' : 'results'} kept</span
            >{/if}
        {#if desk.record.sameAs !== null}<span>same as record {desk.record.sameAs}</span>{/if}
    {:else}
        <span>not run yet</span>
    {/if}
    <label class="flex items-center gap-1.5">
        <input
            type="checkbox"
            class="accent-accent"
            checked={desk.runOnPause}
            onchange={(e) => desk.setRunOnPause(e.currentTarget.checked)}
        />
        run after a pause
    </label>
    {#if atCursor}
        <button
            class="quiet min-w-0 !px-0"
            title="Open its page in the handbook (F1)"
            onmousedown={(e) => e.preventDefault()}
            onclick={() => onpage(atCursor.id)}
            ><span class="text-ink font-mono">{atCursor.name}</span><span
                class="inline-block max-w-[30ch] truncate align-bottom">: {atCursor.help}</span
            ></button
        >
        <span class="sr-only" id="script-keys">Tab indents; Escape, then Tab leaves the script</span>
    {:else}
        <span class="tab-hint" id="script-keys">Tab indents; Escape, then Tab leaves the script</span>
    {/if}
    <span class="flex-1"></span>
    {#if desk.failure}<span class="text-mistake truncate" role="alert">{desk.failure}</span>{/if}
    {#if first}
        <button
            class="quiet"
            class:text-mistake={mistakes.length}
            title="Go to the first one"
            onclick={() => onmessage(first)}>{said}</button
        >
    {:else}
        <span>no messages</span>
    {/if}
</footer>

<style>
    /* Told to those who are in the script; others have no use for it. */
    .tab-hint {
        visibility: hidden;
        overflow: hidden;
        min-width: 0;
        color: var(--ink-faint);
        white-space: nowrap;
        text-overflow: ellipsis;
    }
    :global(body:has(.cm-editor.cm-focused)) .tab-hint {
        visibility: visible;
    }
</style>

<script lang="ts">
    import type { Fix, Message } from '../lib/record'

    interface Props {
        messages: Message[]
        ongo: (line: number) => void
        onfix: (fix: Fix) => void
    }
    let { messages, ongo, onfix }: Props = $props()

    const words = { error: 'mistake', warning: 'caution', note: 'note' }
    const fixes = (m: Message) => (m.fixes ?? (m.fix ? [m.fix] : [])).filter((f) => f.edits.length)
</script>

{#if !messages.length}
    <p class="text-ink-faint px-4 py-3 font-serif text-[15px] italic">No messages: the script says what it means.</p>
{/if}
<ul class="text-[13.5px]">
    {#each messages as message, i (i)}
        <li class="border-rule flex flex-wrap items-baseline gap-x-3 border-b px-4 py-[6px]">
            <button class="quiet !px-0" onclick={() => ongo(message.line)}>line {message.line}</button>
            <span
                class="w-[4.6em] shrink-0"
                class:text-mistake={message.severity === 'error'}
                class:text-caution={message.severity !== 'error'}>{words[message.severity]}</span
            >
            <span class="min-w-0 flex-1">{message.text}</span>
            {#each fixes(message) as fix (fix.label)}
                <button class="button !h-6 !px-2 font-mono text-[12px]" onclick={() => onfix(fix)}>{fix.label}</button>
            {:else}
                {#if message.fix}<span class="text-ink-soft font-mono text-[12px]">{message.fix.label}</span>{/if}
            {/each}
        </li>
    {/each}
</ul>

<script lang="ts">
    import { Dialog } from 'bits-ui'
    import Sheet from '../lib/Sheet.svelte'
    import { wordsOf } from '../lib/faults'
    import { api } from '../api/client'
    import type { Fix } from '../lib/record'

    export interface Renamed {
        line: number
        column: number
        name: string
    }
    interface Props {
        script: string
        at: Renamed | undefined
        onink: (edits: Fix['edits']) => void
        onclose: () => void
    }
    let { script, at, onink, onclose }: Props = $props()

    let name = $state('')
    let said = $state('')

    $effect(() => {
        name = at?.name ?? ''
        said = ''
    })

    async function rename(event: Event): Promise<void> {
        event.preventDefault()
        if (!at) return
        if (name === at.name) {
            onclose()
            return
        }
        try {
            const { edits } = await api.rename(script, at.line, at.column, name)
            onclose()
            onink(edits as unknown as Fix['edits'])
        } catch (reason) {
            said = wordsOf(reason)
        }
    }
</script>

<Sheet open={at !== undefined} size="!w-[420px]" {onclose}>
    <Dialog.Title class="font-serif text-[17px] font-semibold">Rename {at?.name}</Dialog.Title>
    <Dialog.Description class="text-ink-soft mt-1 text-[13.5px]"
        >Everywhere where it is this name; variables of loops, functions and windows are their own.</Dialog.Description
    >
    <form class="mt-3 flex gap-2" onsubmit={rename}>
        <input
            class="border-rule-strong bg-paper min-w-0 flex-1 rounded-sm border px-2 font-mono"
            aria-label="New name"
            bind:value={name}
            spellcheck="false"
        />
        <button class="button main" type="submit">Rename</button>
        <Dialog.Close class="button">Leave it</Dialog.Close>
    </form>
    {#if said}<p class="text-mistake mt-2 text-[13.5px]" role="alert">{said}</p>{/if}
</Sheet>

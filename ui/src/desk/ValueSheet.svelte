<script lang="ts">
    import { Dialog } from 'bits-ui'
    import Sheet from '../lib/Sheet.svelte'
    import { saveAs } from '../lib/addresses'
    import { copied } from '../lib/clipboard'
    import { wordsOf } from '../lib/faults'
    import { api } from '../api/client'
    import type { SeenName } from '../lib/record'

    interface Props {
        folio: number
        script: string
        name: SeenName | undefined
        /** In a walk a value is one of many on its way; the file would hold the last one. */
        walking: boolean
        onclose: () => void
    }
    let { folio, script, name, walking, onclose }: Props = $props()

    let said = $state('')
    const rows = $derived(name?.rows ?? [])
    const long = $derived(rows.length > 0)
    const cut = $derived(name?.size !== undefined && rows.length < name.size)

    function close(): void {
        onclose()
        said = ''
    }

    async function copy(): Promise<void> {
        if (!name) return
        const text = long ? [name.head ?? [], ...rows].map((r) => r.join('\t')).join('\n') : name.text
        if (await copied(text)) said = 'copied'
    }

    async function save(): Promise<void> {
        if (!name) return
        said = 'preparing the file'
        try {
            const text = await api.value(folio, script, name.name)
            saveAs(`${name.name}.csv`, text, 'text/csv')
            said = ''
        } catch (reason) {
            said = wordsOf(reason)
        }
    }
</script>

<Sheet open={name !== undefined} onclose={close}>
    {#if name}
        <header class="flex items-baseline gap-3">
            <Dialog.Title class="font-mono text-[16px] font-semibold">{name.name}</Dialog.Title>
            <Dialog.Description class="text-ink-soft">
                {name.kind}{name.size === undefined
                    ? ''
                    : `, ${name.size} ${name.kind === 'table' ? 'rows' : name.kind === 'text' ? 'characters' : 'elements'}`}{name.unit
                    ? `, in ${name.unit}`
                    : ''}
            </Dialog.Description>
            <span class="flex-1"></span>
            <span class="text-ink-soft text-[13px]" role="status">{said}</span>
            <button class="button !h-7" onclick={copy}>Copy</button>
            {#if long && !walking}<button class="button !h-7" onclick={save}>Save as CSV</button>{/if}
            <Dialog.Close class="button !h-7">Close</Dialog.Close>
        </header>
        {#if long}
            <div class="border-rule mt-3 max-h-[56vh] overflow-auto border-t">
                <table class="text-right font-mono text-[12.5px]">
                    <thead class="bg-raised text-ink-faint sticky top-0">
                        <tr
                            ><th></th>{#each name.head ?? [] as head (head)}<th>{head}</th>{/each}</tr
                        >
                    </thead>
                    <tbody>
                        {#each rows as row, i (i)}
                            <tr
                                ><td class="text-ink-faint">{i + 1}</td>{#each row as cell, k (k)}<td>{cell}</td
                                    >{/each}</tr
                            >
                        {/each}
                    </tbody>
                </table>
                {#if cut}<p class="text-ink-faint px-2 py-2 text-[13px]">
                        The first {rows.length} of {name.size}; {walking ? '' : 'the CSV file has all of them.'}
                    </p>{/if}
            </div>
        {:else}
            <p class="mt-4 font-mono text-[15px] break-words">{name.text}{name.unit ? ` ${name.unit}` : ''}</p>
        {/if}
    {/if}
</Sheet>

<style>
    th,
    td {
        padding: 1px 18px 1px 6px;
        font-weight: normal;
    }
</style>

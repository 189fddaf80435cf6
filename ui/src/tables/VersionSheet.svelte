<script lang="ts">
    import { Dialog } from 'bits-ui'
    import Sheet from '../lib/Sheet.svelte'
    import { api, type TableCompared } from '../api/client'
    import { numberText } from '../lib/numbers'
    import { said } from './tables.svelte'

    interface Props {
        folio: number
        name: string
        number: number
        open: boolean
        onclose: () => void
    }
    let { folio, name, number, open, onclose }: Props = $props()

    let other = $state(0)
    let found = $state.raw<TableCompared | undefined>(undefined)
    let failure = $state('')

    $effect(() => {
        if (open) other = number - 1
    })
    $effect(() => {
        if (!open || !other) return
        found = undefined
        failure = ''
        api.tableVersion(folio, name, other).then(
            (answer) => (found = answer),
            (reason: unknown) => (failure = said(reason))
        )
    })

    const cell = (v: unknown) => (v === null ? 'gap' : typeof v === 'number' ? numberText(v, 9) : String(v))
</script>

<Sheet {open} {onclose}>
    <header class="flex items-baseline gap-3">
        <Dialog.Title class="font-mono text-[16px] font-semibold">{name}</Dialog.Title>
        <Dialog.Description class="text-ink-soft"
            >version {number} beside version
            <select
                class="border-rule bg-raised rounded-sm border px-1"
                value={other}
                aria-label="Older version"
                onchange={(e) => (other = Number(e.currentTarget.value))}
            >
                {#each Array.from({ length: number - 1 }, (_, k) => number - 1 - k) as n (n)}<option value={n}
                        >{n}</option
                    >{/each}
            </select></Dialog.Description
        >
        <span class="flex-1"></span>
        <Dialog.Close class="button !h-7">Close</Dialog.Close>
    </header>
    {#if failure}
        <p class="text-mistake mt-3" role="alert">{failure}</p>
    {:else if found}
        <p class="mt-3">
            {found.rows_before} rows before, {found.rows_now} now; {found.cells_changed}
            {found.cells_changed === 1 ? 'cell' : 'cells'} changed{found.columns_new.length
                ? `; new: ${found.columns_new.join(', ')}`
                : ''}{found.columns_gone.length ? `; gone: ${found.columns_gone.join(', ')}` : ''}.
        </p>
        {#if found.cells.length}
            <div class="border-rule mt-3 max-h-[50vh] overflow-auto border-t">
                <table class="w-full text-right font-mono text-[12.5px]">
                    <thead class="text-ink-faint font-sans"
                        ><tr><th>row</th><th>column</th><th>before</th><th>now</th></tr></thead
                    >
                    <tbody>
                        {#each found.cells as [row, column, before, now], k (k)}
                            <tr><td>{row}</td><td>{column}</td><td>{cell(before)}</td><td>{cell(now)}</td></tr>
                        {/each}
                    </tbody>
                </table>
            </div>
        {/if}
    {:else}
        <p class="text-ink-soft mt-3">Comparing</p>
    {/if}
</Sheet>

<style>
    th,
    td {
        padding: 2px 12px 2px 0;
        font-weight: normal;
    }
</style>

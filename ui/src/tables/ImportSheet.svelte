<script lang="ts">
    import { Dialog } from 'bits-ui'
    import Sheet from '../lib/Sheet.svelte'
    import Doubts from './Doubts.svelte'
    import FileName from './FileName.svelte'
    import { api } from '../api/client'
    import { numberText, withError } from '../lib/numbers'
    import { decided, DELIMITERS, ENCODINGS, type Recipe } from './recipe'
    import { said } from './tables.svelte'

    interface Props {
        folio: number
        incoming: { name: string; data: Blob } | undefined
        known: string[]
        onbring: (name: string, data: Blob, recipe: Recipe) => Promise<void>
        onclose: () => void
    }
    let { folio, incoming, known, onbring, onclose }: Props = $props()

    interface Seen {
        recipe: Recipe
        columns: { name: string; kind: string; bad: [number, string][]; bad_count: number }[]
        rows: number
        shown: (number | string | null)[][]
        errors: Record<string, number[]>
    }
    let seen = $state.raw<Seen | undefined>(undefined)
    let failure = $state('')
    let name = $state('')
    let busy = $state(false)
    let turn = 0
    /** Only a beginning of a long text is sent to be looked at. */
    const LOOKED_AT = 2_000_000

    const recipe = $derived(seen?.recipe)
    const badCells = $derived(
        new Map((seen?.columns ?? []).flatMap((c, k) => c.bad.map(([row, cell]) => [`${row} ${k}`, cell] as const)))
    )
    const bad = $derived(seen?.columns.filter((c) => c.bad_count) ?? [])

    $effect(() => {
        seen = undefined
        failure = ''
        if (!incoming) return
        name = incoming.name
        void look(undefined)
    })

    async function look(wanted: Recipe | undefined): Promise<void> {
        if (!incoming) return
        const mine = ++turn
        const data = /\.(csv|tsv|txt|dat)$/i.test(incoming.name) ? incoming.data.slice(0, LOOKED_AT) : incoming.data
        try {
            const found = await api.look(folio, incoming.name, data, wanted)
            if (mine !== turn) return
            seen = found as unknown as Seen
            failure = ''
        } catch (reason) {
            if (mine === turn) failure = said(reason)
        }
    }

    /** Read in another way: what was found out of the columns no longer holds. */
    function again(change: Partial<Recipe>): void {
        const base: Partial<Recipe> = recipe ?? {}
        void look({ ...(base as Recipe), columns: [], ...change })
    }

    function setColumn(k: number, change: Partial<Recipe['columns'][number]>): void {
        if (!seen || !recipe) return
        const columns = recipe.columns.map((c, i) => (i === k ? { ...c, ...change } : c))
        void look({ ...recipe, columns })
    }

    /** Whoever says what a column is has decided it. */
    function setKind(k: number, kind: Recipe['columns'][number]['kind']): void {
        const column = recipe?.columns[k]
        if (!recipe || !column) return
        const columns = recipe.columns.map((c, i) => (i === k ? { ...c, kind, since: null, format: null } : c))
        void look({ ...recipe, columns, settled: [...recipe.settled, `kind:${column.source}`] })
    }

    async function bring(): Promise<void> {
        if (!incoming || !recipe) return
        busy = true
        await onbring(name.trim(), incoming.data, recipe)
        busy = false
    }

    function shownCell(v: number | string | null, row: number, column: string): string {
        if (typeof v !== 'number') return v ?? ''
        return withError(numberText(v, 8), seen?.errors[column]?.[row])
    }
</script>

<Sheet open={incoming !== undefined} size="wide" {onclose}>
    <header class="flex items-baseline gap-3">
        <Dialog.Title class="font-serif text-[19px] font-semibold">How this file reads</Dialog.Title>
        <Dialog.Description class="text-ink-soft text-[13px]"
            >the file itself is kept as it is{seen ? `; ${seen.columns.length} columns` : ''}</Dialog.Description
        >
    </header>
    {#if failure}<p class="text-mistake bg-mistake-wash mt-3 rounded-sm px-3 py-2" role="alert">
            {failure}
        </p>{/if}
    {#if recipe?.format === 'text'}
        <div class="text-ink-soft mt-3 flex flex-wrap items-end gap-x-4 gap-y-2 text-[13px]">
            <label class="field"
                >divided by
                <select
                    class="box"
                    value={recipe.delimiter}
                    onchange={(e) => again({ delimiter: e.currentTarget.value })}
                >
                    {#each DELIMITERS as [sign, word] (sign)}<option value={sign}>{word}</option>{/each}
                </select></label
            >
            <label class="field"
                >decimal sign
                <select
                    class="box"
                    value={recipe.decimal}
                    onchange={(e) => again({ decimal: e.currentTarget.value, settled: [...recipe.settled, 'decimal'] })}
                >
                    <option value=".">point</option><option value=",">comma</option>
                </select></label
            >
            <label class="field"
                >encoding
                <select
                    class="box"
                    value={recipe.encoding}
                    onchange={(e) => again({ encoding: e.currentTarget.value })}
                >
                    {#each ENCODINGS as code (code)}<option>{code}</option>{/each}
                </select></label
            >
            <label class="field"
                >lines above
                <input
                    class="box w-[64px]"
                    type="number"
                    min="0"
                    max="1000"
                    value={recipe.skip}
                    onchange={(e) => again({ skip: Math.max(0, e.currentTarget.valueAsNumber || 0) })}
                /></label
            >
            <label class="field"
                >remarks begin with
                <input
                    class="box w-[64px] font-mono"
                    value={recipe.comment ?? ''}
                    onchange={(e) => again({ comment: e.currentTarget.value || null })}
                /></label
            >
            <label class="mb-[5px] flex items-center gap-1.5"
                ><input
                    type="checkbox"
                    class="accent-accent"
                    checked={recipe.header}
                    onchange={(e) => again({ header: e.currentTarget.checked })}
                /> the first line names the columns</label
            >
            <label class="mb-[5px] flex items-center gap-1.5"
                ><input
                    type="checkbox"
                    class="accent-accent"
                    checked={recipe.units_row}
                    disabled={!recipe.header}
                    onchange={(e) => again({ units_row: e.currentTarget.checked })}
                /> the second holds units</label
            >
        </div>
    {:else if recipe?.format === 'xlsx'}
        <div class="text-ink-soft mt-3 flex flex-wrap items-end gap-x-4 gap-y-2 text-[13px]">
            <label class="field"
                >sheet
                <select
                    class="box"
                    value={recipe.sheet}
                    onchange={(e) => again({ sheet: e.currentTarget.value, cells: null })}
                >
                    {#each recipe.sheets as sheet (sheet)}<option>{sheet}</option>{/each}
                </select></label
            >
            <label class="field"
                >cells <input
                    class="box w-[110px] font-mono"
                    value={recipe.cells ?? ''}
                    placeholder="all, or B3:F40"
                    onchange={(e) => again({ cells: e.currentTarget.value.trim() || null })}
                /></label
            >
        </div>
    {/if}
    {#if seen && recipe}
        <div class="border-rule mt-4 border border-b-0 empty:hidden">
            <Doubts {recipe} ondecide={(doubt, other) => void look(decided(recipe, doubt, other))} />
        </div>
        <div class="border-rule max-h-[42vh] overflow-auto border">
            <table class="w-full text-right font-mono text-[12.5px]">
                <thead class="bg-raised sticky top-0 font-sans">
                    <tr>
                        {#each recipe.columns as column, k (column.source)}
                            <th
                                class="border-rule border-b px-2 py-2 text-left align-top"
                                class:opacity-50={!column.kept}
                            >
                                <input
                                    class="box w-full font-mono text-[12.5px] font-semibold"
                                    value={column.name}
                                    aria-label="Name of column {k + 1}"
                                    onchange={(e) => setColumn(k, { name: e.currentTarget.value.trim() })}
                                />
                                <span class="mt-1 flex gap-1">
                                    <input
                                        class="box w-[74px] font-mono text-[12px]"
                                        value={column.unit ?? ''}
                                        placeholder="unit"
                                        aria-label="Unit of {column.name}"
                                        disabled={column.kind === 'text'}
                                        onchange={(e) => setColumn(k, { unit: e.currentTarget.value.trim() || null })}
                                    />
                                    <select
                                        class="box text-[12px]"
                                        value={column.kind}
                                        aria-label="Kind of {column.name}"
                                        onchange={(e) => setKind(k, e.currentTarget.value as 'number')}
                                    >
                                        <option value="number">number</option><option value="time">time</option><option
                                            value="text">text</option
                                        >
                                    </select>
                                </span>
                                <label class="text-ink-soft mt-1 flex items-center gap-1 text-[12px] font-normal"
                                    ><input
                                        type="checkbox"
                                        class="accent-accent"
                                        checked={column.kept}
                                        onchange={(e) => setColumn(k, { kept: e.currentTarget.checked })}
                                    />
                                    keep{column.since ? `, ${column.since}` : ''}</label
                                >
                            </th>
                        {/each}
                    </tr>
                </thead>
                <tbody>
                    {#each seen.shown as row, i (i)}
                        <tr
                            >{#each row as cell, k (k)}
                                {@const wrong = badCells.get(`${i + 1} ${k}`)}
                                <td
                                    class="px-3 whitespace-nowrap"
                                    class:text-left={recipe.columns[k]?.kind === 'text'}
                                    class:text-mistake={wrong !== undefined}
                                    class:bg-mistake-wash={wrong !== undefined}
                                    >{wrong ?? shownCell(cell, i, recipe.columns[k]?.name ?? '')}</td
                                >{/each}</tr
                        >
                    {/each}
                </tbody>
            </table>
        </div>
        {#if bad.length}
            <p class="text-mistake mt-2 text-[13px]">
                {#each bad as column (column.name)}{column.name}: {column.bad
                        .slice(0, 4)
                        .map(([row, cell]) => `row ${row} “${cell}”`)
                        .join(', ')}{column.bad_count > 4 ? ` and ${column.bad_count - 4} more` : ''}
                    {column.bad_count === 1 ? 'is no number and becomes a gap' : 'are no numbers and become gaps'}.
                {/each}
            </p>
        {/if}
    {:else if !failure}
        <p class="text-ink-soft mt-6">Reading the file</p>
    {/if}
    <footer class="mt-4 flex items-center gap-3">
        <FileName bind:name />
        {#if known.includes(name.trim())}<span class="text-ink-soft text-[13px]"
                >a newer version of the one that is there</span
            >{/if}
        <span class="flex-1"></span>
        <Dialog.Close class="button">Leave it</Dialog.Close>
        <button
            class="button main"
            disabled={!seen || busy || !name.trim() || failure !== ''}
            onclick={() => void bring()}>{busy ? 'Bringing it in' : 'Bring it in'}</button
        >
    </footer>
</Sheet>

<style>
    .field {
        display: grid;
        gap: 2px;
    }
</style>

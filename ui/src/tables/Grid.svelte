<script lang="ts">
    import { tick } from 'svelte'
    import { numberText, withError } from '../lib/numbers'
    import { barsPath, typedNumber, withCell, withRow, type Summary } from './recipe'
    import type { Row, Tables } from './tables.svelte'

    interface Props {
        tables: Tables
        chosen: string | undefined
        onchoose: (column: string) => void
    }
    let { tables, chosen, onchoose }: Props = $props()

    const TALL = 26
    /** Browsers cannot scroll over more than about 33 million pixels. */
    const MOST_TALL = 12_000_000
    let top = $state(0)
    let height = $state(600)
    let body: HTMLDivElement | undefined = $state()

    const columns = $derived(tables.table?.columns ?? [])
    const recipe = $derived(tables.recipe)
    const excluded = $derived(new Set(recipe?.excluded ?? []))
    const corrected = $derived(new Map((recipe?.corrections ?? []).map((c) => [`${c.row} ${c.column}`, c.value])))
    const bad = $derived(
        new Map(columns.flatMap((c) => c.file_bad.map(([row, cell]) => [`${row} ${c.name}`, String(cell)])))
    )
    const full = $derived(tables.total * TALL)
    const canvas = $derived(Math.min(full, MOST_TALL))
    // Of a longer list the scroll bar stands for shares of it.
    const first = $derived(
        full <= MOST_TALL
            ? Math.max(0, Math.floor(top / TALL) - 4)
            : Math.floor((top / Math.max(1, MOST_TALL - height)) * Math.max(0, tables.total - height / TALL))
    )
    const count = $derived(Math.ceil(height / TALL) + 8)
    const places = $derived(
        Array.from({ length: Math.max(0, Math.min(count, tables.total - first)) }, (_, k) => first + k)
    )
    const offset = $derived(full <= MOST_TALL ? first * TALL : Math.min(top, MOST_TALL - count * TALL))
    const widths = $derived(columns.map((c) => (c.kind === 'text' ? 190 : 132)))
    const template = $derived(`66px ${widths.map((w) => `${w}px`).join(' ')}`)

    $effect(() => {
        if (tables.total) tables.need(first, Math.min(tables.total - 1, first + count))
    })
    $effect(() => {
        void tables.name
        if (body) body.scrollTop = 0
    })

    let editing = $state.raw<{ row: number; column: string } | undefined>(undefined)
    let typed = $state('')
    let wrong = $state(false)
    let input: HTMLInputElement | undefined = $state()

    function shownCell(row: Row, k: number): string {
        const column = columns[k]
        if (!column) return ''
        const mark = `${row.number} ${column.name}`
        const value = excluded.has(row.number) && !column.computed ? row.original[k] : row.cells[k]
        if (typeof value === 'string') return value
        if (typeof value === 'number') return withError(numberText(value, 9), row.errors[column.name])
        return bad.has(mark) && !corrected.has(mark) ? (bad.get(mark) ?? '') : ''
    }

    function told(row: Row, k: number): string {
        const column = columns[k]
        if (!column) return ''
        const mark = `${row.number} ${column.name}`
        const before = row.original[k]
        if (corrected.has(mark)) return `corrected; the file says ${bad.get(mark) ?? before ?? 'nothing'}`
        if (bad.has(mark)) return 'no number; it is taken as a gap'
        return ''
    }

    async function edit(row: Row, k: number): Promise<void> {
        const column = columns[k]
        if (!column || column.kind === 'text' || column.computed) return
        editing = { row: row.number, column: column.name }
        typed = (shownCell(row, k).split('±')[0] ?? '').trim()
        wrong = false
        await tick()
        input?.select()
    }

    async function keep(): Promise<void> {
        if (!editing || !recipe) return
        const value = typedNumber(typed)
        if (value === undefined) {
            wrong = true
            return
        }
        const at = editing
        editing = undefined
        await tables.mend(withCell(recipe, at.row, at.column, value))
    }

    async function asInFile(): Promise<void> {
        if (!editing || !recipe) return
        const at = editing
        editing = undefined
        await tables.mend(withCell(recipe, at.row, at.column, undefined))
    }

    function statistics(summary: Summary): string {
        if (summary.low === undefined || summary.high === undefined)
            return summary.distinct === undefined ? '' : `${summary.distinct} different`
        return `${numberText(summary.low, 4)} to ${numberText(summary.high, 4)}`
    }
</script>

<div
    bind:this={body}
    bind:clientHeight={height}
    class="min-w-0 flex-1 overflow-auto"
    onscroll={(e) => (top = e.currentTarget.scrollTop)}
    role="table"
    aria-rowcount={tables.total}
    aria-label="Rows of {tables.name}"
>
    <div
        class="heads border-rule bg-paper sticky top-0 z-10 grid w-max min-w-full border-b"
        style:grid-template-columns={template}
        role="row"
    >
        <div class="text-ink-faint self-end px-3 pb-1 text-right text-[12px]">row</div>
        {#each columns as column (column.name)}
            {@const summary = column.summary as Summary}
            <div class="head" class:chosen={chosen === column.name} role="columnheader">
                <button
                    class="block w-full text-left"
                    onclick={() => onchoose(column.name)}
                    title={column.description || `${column.name}: unit, kind, filter`}
                    aria-expanded={chosen === column.name}
                >
                    <span class="block truncate font-mono text-[13px] font-semibold">{column.name}</span>
                    <span class="text-ink-soft block truncate text-[12px]"
                        >{column.unit
                            ? `in ${column.unit}`
                            : column.kind === 'text'
                              ? 'text'
                              : column.computed
                                ? `= ${column.computed}`
                                : 'no unit'}</span
                    >
                    <svg
                        class="text-accent mt-[3px] block h-[22px] w-full opacity-70"
                        viewBox="0 0 100 22"
                        preserveAspectRatio="none"
                        aria-hidden="true"
                    >
                        {#if summary.bins}<path d={barsPath(summary.bins, 100, 22)} fill="currentColor" />{/if}
                    </svg>
                    <span class="text-ink-faint block truncate text-[11.5px]">{statistics(summary)}</span>
                </button>
                <div class="flex items-center text-[11.5px]">
                    <button
                        class="quiet !px-0 !py-0 text-[11.5px]"
                        onclick={() => tables.sortBy(column.name)}
                        aria-label="Sort by {column.name}"
                        >{tables.sort === column.name ? (tables.down ? 'falling ↓' : 'rising ↑') : 'sort'}</button
                    >
                    <span class="flex-1"></span>
                    {#if column.bad_count}<span class="text-mistake">{column.bad_count} bad</span
                        >{:else if summary.gaps}<span class="text-ink-faint"
                            >{summary.gaps} gap{summary.gaps === 1 ? '' : 's'}</span
                        >{/if}
                </div>
            </div>
        {/each}
    </div>
    {#if !tables.total}
        <p class="text-ink-faint px-4 py-6 font-serif text-[15px] italic">No row fits this filter.</p>
    {/if}
    <div class="relative w-max min-w-full" style:height="{canvas}px">
        <div class="absolute top-0 left-0 w-max min-w-full" style:transform="translateY({offset}px)">
            {#each places as place (place)}
                {@const row = tables.row(place)}
                <div
                    class="row grid"
                    class:out={row && excluded.has(row.number)}
                    style:grid-template-columns={template}
                    role="row"
                >
                    {#if row}
                        <button
                            class="number"
                            title={excluded.has(row.number)
                                ? 'This row does not count; click to count it again'
                                : 'Click to leave this row out: it stays here, and figures show it hollow'}
                            aria-pressed={excluded.has(row.number)}
                            aria-label="Row {row.number}"
                            onclick={() =>
                                recipe && void tables.mend(withRow(recipe, row.number, excluded.has(row.number)))}
                            >{row.number}</button
                        >
                        {#each columns as column, k (column.name)}
                            {@const mark = `${row.number} ${column.name}`}
                            {#if editing?.row === row.number && editing.column === column.name}
                                <div class="relative">
                                    <input
                                        bind:this={input}
                                        bind:value={typed}
                                        class="edit font-mono text-[12.5px]"
                                        class:wrong
                                        aria-label="{column.name} in row {row.number}"
                                        onkeydown={(e) => {
                                            if (e.key === 'Enter') void keep()
                                            if (e.key === 'Escape') editing = undefined
                                        }}
                                        onblur={(e) => {
                                            if (!(
                                                e.relatedTarget instanceof HTMLElement && e.relatedTarget.dataset.cell
                                            ))
                                                editing = undefined
                                        }}
                                    />
                                    <div class="menu !min-w-0 absolute top-[27px] right-0 z-20 text-[12.5px]">
                                        {#if wrong}<p class="menu-note text-mistake">
                                                a number, or nothing for a gap
                                            </p>{/if}
                                        <button class="menu-item w-full" data-cell="keep" onclick={() => void keep()}
                                            >Keep <kbd class="text-ink-faint font-mono text-[11px]">⏎</kbd></button
                                        >
                                        {#if corrected.has(mark)}<button
                                                class="menu-item w-full"
                                                data-cell="back"
                                                onclick={() => void asInFile()}>As in the file</button
                                            >{/if}
                                    </div>
                                </div>
                            {:else}
                                <div
                                    class="cell font-mono text-[12.5px]"
                                    class:text-left={column.kind === 'text'}
                                    class:corrected={corrected.has(mark)}
                                    class:bad={bad.has(mark) && !corrected.has(mark)}
                                    class:computed={column.computed !== null}
                                    title={told(row, k)}
                                    role="cell"
                                    tabindex="0"
                                    ondblclick={() => void edit(row, k)}
                                    onkeydown={(e) => {
                                        if (e.key === 'Enter') void edit(row, k)
                                    }}
                                >
                                    {shownCell(row, k)}
                                </div>
                            {/if}
                        {/each}
                    {:else}
                        <span class="number text-ink-faint">·</span>
                    {/if}
                </div>
            {/each}
        </div>
    </div>
</div>

<style>
    .head {
        min-width: 0;
        padding: 8px 10px 4px;
        border-left: 1px solid var(--rule);
    }
    .head.chosen {
        background: var(--accent-wash);
    }
    .row {
        height: 26px;
        border-bottom: 1px solid color-mix(in srgb, var(--rule) 55%, transparent);
    }
    .row:hover {
        background: var(--table);
    }
    .number {
        padding: 0 12px;
        color: var(--ink-faint);
        font-size: 12px;
        line-height: 26px;
        text-align: right;
    }
    .number:hover {
        color: var(--accent);
        text-decoration: line-through;
    }
    .cell {
        overflow: hidden;
        padding: 0 10px;
        line-height: 26px;
        text-align: right;
        text-overflow: ellipsis;
        white-space: nowrap;
    }
    .cell.text-left {
        text-align: left;
    }
    .cell.corrected {
        color: var(--accent);
        font-weight: 600;
    }
    .cell.bad {
        background: var(--mistake-wash);
        color: var(--mistake);
    }
    .cell.computed {
        font-style: italic;
    }
    .out .cell {
        color: var(--ink-faint);
        text-decoration: line-through;
    }
    .edit {
        width: 100%;
        height: 26px;
        padding: 0 9px;
        border: 1px solid var(--accent);
        background: var(--raised);
        text-align: right;
    }
    .edit.wrong {
        border-color: var(--mistake);
        color: var(--mistake);
    }
</style>

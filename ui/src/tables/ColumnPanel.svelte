<script lang="ts">
    import { api } from '../api/client'
    import { numberText } from '../lib/numbers'
    import { barsPath, typedNumber, withColumn, type Summary } from './recipe'
    import type { Tables } from './tables.svelte'

    interface Props {
        tables: Tables
        name: string
        /** The column that the panel shows now; nothing closes it. */
        onname: (name: string | undefined) => void
    }
    let { tables, name, onname }: Props = $props()

    const column = $derived(tables.table?.columns.find((c) => c.name === name))
    const recipe = $derived(tables.recipe)
    let fresh = $state.raw<Summary | undefined>(undefined)
    const summary = $derived(fresh ?? (column?.summary as Summary | undefined) ?? {})
    let low = $state('')
    let high = $state('')
    let text = $state('')
    let formula = $state('')
    let newName = $state('')
    let newUnit = $state('')

    $effect(() => {
        fresh = undefined
        const [file, of] = [tables.name, name]
        // With what was corrected and excluded, or worked out.
        void tables.recipe
        api.columnSummary(tables.folio, file, of).then(
            (found) => {
                if (file === tables.name && of === name) fresh = found
            },
            () => undefined
        )
    })
    $effect(() => {
        void name
        low = high = text = ''
    })

    const facts = $derived(
        (
            [
                ['values', summary.count],
                ['gaps', summary.gaps],
                ['left out', summary.left_out || undefined],
                ['least', summary.low],
                ['greatest', summary.high],
                ['mean', summary.mean],
                ['median', summary.median],
                ['standard deviation', summary.sd],
                ['different', summary.distinct]
            ] as [string, number | null | undefined][]
        ).filter(([, v]) => v !== undefined && v !== null)
    )

    async function change(what: Parameters<typeof withColumn>[2]): Promise<void> {
        if (!recipe || !column) return
        if (column.computed !== null) {
            const { name: n, unit, description } = what
            const computed = recipe.computed.map((c) =>
                c.name === name
                    ? {
                          ...c,
                          ...(n === undefined ? {} : { name: n }),
                          ...(unit === undefined ? {} : { unit }),
                          ...(description === undefined ? {} : { description })
                      }
                    : c
            )
            if ((await tables.mend({ ...recipe, computed })) && n !== undefined) onname(n)
            return
        }
        if ((await tables.mend(withColumn(recipe, name, what))) && what.name !== undefined) onname(what.name)
    }

    function filter(): void {
        if (!column) return
        if (column.kind === 'text') tables.setFilter(text ? { where: name, text } : undefined)
        else {
            const [a, b] = [typedNumber(low), typedNumber(high)]
            const given = {
                ...(typeof a === 'number' ? { low: a } : {}),
                ...(typeof b === 'number' ? { high: b } : {})
            }
            tables.setFilter(Object.keys(given).length ? { where: name, ...given } : undefined)
        }
    }

    async function compute(): Promise<void> {
        if (!recipe || !newName.trim() || !formula.trim()) return
        const computed = [
            ...recipe.computed,
            { name: newName.trim(), formula: formula.trim(), unit: newUnit.trim() || null, description: '' }
        ]
        if (await tables.mend({ ...recipe, computed })) {
            onname(newName.trim())
            newName = formula = newUnit = ''
        }
    }

    async function drop(): Promise<void> {
        if (!recipe || !column) return
        const next =
            column.computed !== null
                ? { ...recipe, computed: recipe.computed.filter((c) => c.name !== name) }
                : withColumn(recipe, name, { kept: false })
        if (await tables.mend(next)) onname(undefined)
    }
</script>

{#if column && recipe}
    <aside
        class="border-rule w-[264px] shrink-0 overflow-auto border-l px-4 py-3 text-[13px]"
        aria-label="Column {name}"
    >
        <div class="flex items-center">
            <h2 class="min-w-0 flex-1 truncate font-mono text-[14px] font-semibold">{name}</h2>
            <button class="quiet" onclick={() => onname(undefined)} aria-label="Close the column">Close</button>
        </div>
        {#if summary.bins}
            <svg
                class="text-accent mt-2 h-[64px] w-full"
                viewBox="0 0 200 64"
                preserveAspectRatio="none"
                aria-hidden="true"><path d={barsPath(summary.bins, 200, 64)} fill="currentColor" opacity="0.8" /></svg
            >
        {/if}
        <dl class="mt-2 grid grid-cols-[1fr_auto] gap-x-3">
            {#each facts as [word, value] (word)}
                <dt class="text-ink-soft">{word}</dt>
                <dd class="text-right font-mono text-[12.5px]">{numberText(value as number, 6)}</dd>
            {/each}
        </dl>
        {#if summary.common}
            <p class="text-ink-soft mt-1">{summary.common.map(([t, n]) => `${t} (${n})`).join(', ')}</p>
        {/if}
        <label class="field"
            >name <input
                class="box font-mono"
                value={name}
                onchange={(e) => void change({ name: e.currentTarget.value.trim() })}
            /></label
        >
        {#if column.kind !== 'text'}
            <label class="field"
                >unit <input
                    class="box font-mono"
                    value={column.unit ?? ''}
                    placeholder="m^3/s"
                    onchange={(e) => void change({ unit: e.currentTarget.value.trim() || null })}
                /></label
            >
        {/if}
        <label class="field"
            >description <textarea
                class="box"
                rows="2"
                value={column.description}
                onchange={(e) => void change({ description: e.currentTarget.value })}
            ></textarea></label
        >
        {#if column.computed !== null}
            <p class="text-ink-soft mt-2">worked out as <code class="text-[12px]">{column.computed}</code></p>
        {:else}
            <label class="field"
                >kind
                <select
                    class="box"
                    value={column.kind}
                    onchange={(e) => void change({ kind: e.currentTarget.value as 'number' })}
                >
                    <option value="number">number</option><option value="time">date or time</option><option value="text"
                        >text</option
                    >
                </select>
            </label>
        {/if}
        {#if column.since}<p class="text-ink-faint mt-1">counted in {column.since}</p>{/if}

        <h3 class="head">Filter</h3>
        <form
            class="flex items-center gap-2"
            onsubmit={(e) => {
                e.preventDefault()
                filter()
            }}
        >
            {#if column.kind === 'text'}
                <input
                    class="box min-w-0 flex-1"
                    bind:value={text}
                    placeholder="holds"
                    aria-label="Rows whose text holds"
                />
            {:else}
                <input class="box min-w-0 flex-1 font-mono" bind:value={low} placeholder="from" aria-label="From" />
                <input class="box min-w-0 flex-1 font-mono" bind:value={high} placeholder="to" aria-label="To" />
            {/if}
            <button class="button !h-7">Show</button>
        </form>
        <p class="mt-1">
            {#if column.kind !== 'text' && summary.gaps}<button
                    class="quiet !px-0"
                    onclick={() => tables.setFilter({ where: name, gaps: true })}>only gaps</button
                >{/if}
            {#if tables.filter}<button class="quiet" onclick={() => tables.setFilter(undefined)}>all rows</button>{/if}
        </p>
        {#if column.bad_count}
            <h3 class="head">No numbers</h3>
            <ul class="text-mistake font-mono text-[12px]">
                {#each column.bad.slice(0, 12) as [row, cell] (row)}<li>row {row}: {cell}</li>{/each}
                {#if column.bad_count > 12}<li>and {column.bad_count - 12} more</li>{/if}
            </ul>
        {/if}
        <h3 class="head">A column worked out from the others</h3>
        <form
            class="grid grid-cols-1 gap-2"
            onsubmit={(e) => {
                e.preventDefault()
                void compute()
            }}
        >
            <div class="flex gap-2">
                <input
                    class="box min-w-0 flex-1 font-mono"
                    bind:value={newName}
                    placeholder="name"
                    aria-label="Name of the new column"
                />
                <input
                    class="box w-[84px] font-mono"
                    bind:value={newUnit}
                    placeholder="unit"
                    aria-label="Unit of the new column"
                />
            </div>
            <input
                class="box font-mono"
                bind:value={formula}
                placeholder="level - mean(level)"
                aria-label="Formula of the new column"
            />
            <button class="button !h-7 justify-self-start" disabled={!newName.trim() || !formula.trim()}>Add</button>
        </form>
        <p class="mt-4">
            <button class="quiet !px-0" onclick={drop}
                >{column.computed !== null ? 'Remove this column' : 'Leave this column out'}</button
            >
        </p>
    </aside>
{/if}

<style>
    .field {
        display: grid;
        gap: 2px;
        margin-top: 8px;
        color: var(--ink-soft);
    }
    .head {
        margin-top: 14px;
        margin-bottom: 4px;
        color: var(--ink-soft);
        font-weight: 600;
    }
</style>

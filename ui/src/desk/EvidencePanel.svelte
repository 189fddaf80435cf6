<script lang="ts">
    import EvidenceMark from '../lib/EvidenceMark.svelte'
    import Maths from '../lib/Maths.svelte'
    import { intervalText, longPieces, numberTex, numberText, uncertainText, whatText } from '../lib/numbers'
    import type { Finding } from '../lib/record'
    import CloseUp from './CloseUp.svelte'
    import FitEvidence from './FitEvidence.svelte'
    import Proof from './Proof.svelte'
    import Strip from './Strip.svelte'

    let { finding }: { finding: Finding } = $props()

    const MOST = 60
    const PLACES = ['roots', 'crossings', 'extrema', 'lowest', 'solutions']
    const BESIDE = ['evidence', 'of', 'pass', 'at', 'errors', 'units', 'extrapolated']
    let all = $state(false)
    const shape = $derived(finding.passes ? null : finding.shape)
    /** Solutions of several unknowns, or with letters in them, have no interval of their own: they stand in a table. */
    const listed = $derived(
        PLACES.includes(shape ?? '') && finding.values.every((v) => v.interval || v.x_high !== undefined)
    )
    const places = $derived(listed ? finding.values : [])
    const placeOf = (row: object): number =>
        Number((row as Record<string, unknown>)[shape === 'solutions' ? (finding.variables?.[0] ?? 'x') : 'x'])
    const shown = $derived(all ? places : places.slice(0, MOST))
    const passes = $derived(finding.passes ? finding.values : [])
    const TABLES = ['table', 'comparison', 'spans', 'points', 'solutions']
    const table = $derived(TABLES.includes(shape ?? '') && !listed ? finding.values : [])
    const columns = $derived.by(() => {
        const first = table[0]
        if (!first) return []
        if (shape === 'spans') return ['low', 'high']
        if (shape === 'points' || shape === 'solutions')
            return [...(finding.variables ?? []), ...['value', 'what'].filter((k) => k in first)]
        // Not every row has every cell.
        return [...new Set(table.flatMap((row) => Object.keys(row)))].filter((k) => !BESIDE.includes(k))
    })
    const heights = $derived(['crossings', 'extrema', 'lowest'].includes(shape ?? ''))
    const asked = $derived(finding.values.filter((v) => v.digits))
    let steps = $state(false)
    const cell = (row: object, name: string): string => {
        const value = (row as Record<string, unknown>)[name]
        if (shape === 'spans') return spanEnd(row as Record<string, unknown>, name)
        if (name === 'what' && (row as { border?: string }).border) return `${String(value)}, on the border`
        const error = (row as { errors?: Record<string, number> }).errors?.[name]
        if (error && typeof value === 'number') return uncertainText(value, error)
        if (shape === 'comparison')
            return typeof value === 'number'
                ? numberText(value, 5)
                : value === null || value === undefined
                  ? ''
                  : String(value)
        return value === null ? 'gap' : typeof value === 'number' ? String(value).replace('-', '−') : String(value)
    }
    const spanEnd = (row: Record<string, unknown>, name: string): string => {
        const value = row[name]
        if (value === null) return name === 'low' ? '−∞' : '∞'
        return `${String(value).replace('-', '−')} ${row[`${name}_belongs`] ? '(belongs to it)' : '(does not belong to it)'}`
    }
    const passText = (row: (typeof finding.values)[number]): string =>
        row.passed !== undefined
            ? row.passed
                ? 'holds'
                : 'fails'
            : Array.isArray(row.value)
              ? `[${row.value.map((v) => (v === null ? 'gap' : String(v))).join(', ')}]`
              : `${typeof row.exact === 'string' ? `${row.exact} = ` : ''}${String(row.value ?? row.x ?? row.text ?? '')}`
    const where = (row: (typeof finding.values)[number]): string =>
        Object.entries(row.at ?? {})
            .map(([name, value]) => `${name} = ${value}`)
            .join(', ')
    const single = $derived(shape === 'value' ? finding.values.find((v) => v.interval) : undefined)
    const pieces = $derived(longPieces(finding.latex))
    const mixed = $derived(places.some((v) => v.evidence !== finding.evidence))
    const kinds = $derived(places.some((v) => kind(v)))

    const placeName = $derived(shape === 'solutions' ? (finding.variables?.[0] ?? 'x') : 'x')
    const uncertain = $derived(places.some((v) => v.errors))
    /** ` / s` behind the head of a column whose numbers are in seconds. */
    const inUnit = (name: string): string => {
        const unit = places.find((v) => v.units?.[name])?.units?.[name]
        return unit ? ` / ${unit}` : ''
    }
    const errorTex = (row: (typeof places)[number], name: string): string => {
        const error = row.errors?.[name]
        return error === undefined ? '' : numberTex(error, 2)
    }

    function kind(value: (typeof places)[number]): string {
        const times = value.multiplicity && value.multiplicity > 1 ? `${value.multiplicity}-fold` : ''
        const shape = value.shape && !['turn', 'end'].includes(value.shape) ? value.shape : ''
        return [
            whatText(value),
            shape,
            times,
            value.at_end ? 'at the end' : '',
            value.extrapolated ? 'extrapolated' : ''
        ]
            .filter(Boolean)
            .join(', ')
    }
</script>

<div class="px-4 pb-3 pl-[52px] text-[13.5px]" data-testid="evidence">
    <p class="max-w-[75ch]">
        {finding.summary}
        <span class="text-ink-soft">Method: {finding.method}.</span>
    </p>
    {#if pieces}
        <div class="mt-2 overflow-x-auto">
            <table class="text-left">
                <tbody>
                    {#each pieces.rows as [piece, place], i (i)}
                        <tr>
                            <td class="pr-6 whitespace-nowrap"><Maths tex={piece ?? ''} /></td>
                            <td class="text-ink-soft whitespace-nowrap"><Maths tex={place ?? ''} /></td>
                        </tr>
                    {/each}
                </tbody>
            </table>
        </div>
    {/if}
    {#if finding.shape === 'fit'}<FitEvidence {finding} />{/if}
    {#if finding.closeups?.length}
        <div class="mt-2 flex flex-wrap gap-3">
            {#each finding.closeups as seen (seen.x)}
                <CloseUp {seen} axis={finding.shape !== 'extrema'} name={finding.variable ?? 'x'} />
            {/each}
        </div>
    {/if}
    {#if single?.interval}
        <p class="mt-1">The value lies in <span class="digits">{intervalText(single.interval)}</span></p>
    {/if}
    {#if passes.length || table.length}
        <div class="mt-2 max-h-[40vh] overflow-auto">
            <table class="text-left">
                <thead class="text-ink-faint text-[12px]">
                    <tr>
                        {#if passes.length}<th>pass</th><th></th><th>value</th>{:else}{#each columns as name (name)}<th
                                    >{name}</th
                                >{/each}{/if}
                    </tr>
                </thead>
                <tbody class="digits">
                    {#each (passes.length ? passes : table).slice(0, all ? undefined : MOST) as row, i (i)}
                        <tr>
                            {#if passes.length}
                                <td>{row.pass}</td><td class="text-ink-soft">{where(row)}</td><td>{passText(row)}</td>
                            {:else}
                                {#each columns as name (name)}<td>{cell(row, name)}</td>{/each}
                            {/if}
                        </tr>
                    {/each}
                </tbody>
            </table>
            {#if table.some((v) => v.intervals)}
                <details class="mt-1">
                    <summary class="text-ink-soft cursor-pointer">the intervals that are proven to hold them</summary>
                    {#each table.slice(0, 12) as row, i (i)}
                        <p class="digits">
                            {#each Object.entries(row.intervals ?? {}) as [name, interval] (name)}
                                <span class="text-ink-faint">{name}</span>
                                {interval ? intervalText(interval) : 'not proven'}&ensp;
                            {/each}
                        </p>
                    {/each}
                </details>
            {/if}
            {#if !all && Math.max(passes.length, table.length) > MOST}
                <button class="quiet mt-1 -ml-1" onclick={() => (all = true)}
                    >Show all {Math.max(passes.length, table.length)}</button
                >
            {/if}
        </div>
    {/if}
    {#if shown.length}
        <div class="mt-2 overflow-x-auto">
            <table class="text-left">
                <thead class="text-ink-faint text-[12px]">
                    <tr>
                        <th></th><th>place{inUnit(placeName)}</th>
                        {#if uncertain}<th>standard uncertainty</th>{/if}
                        {#if heights}<th>value{inUnit('value')}</th>{/if}
                        {#if heights && uncertain}<th>standard uncertainty</th>{/if}
                        <th>proven to lie in</th>
                        {#if kinds}<th>kind</th>{/if}
                        {#if mixed}<th>evidence</th>{/if}
                    </tr>
                </thead>
                <tbody>
                    {#each shown as place, i (i)}
                        <tr>
                            <td><Maths tex={`${finding.variable_latex ?? 'x'}_{${i + 1}}`} /></td>
                            <td><Maths tex={numberTex(placeOf(place), 16)} /></td>
                            {#if uncertain}<td><Maths tex={errorTex(place, placeName)} /></td>{/if}
                            {#if heights}<td><Maths tex={numberTex(Number(place.value), 12)} /></td>{/if}
                            {#if heights && uncertain}<td><Maths tex={errorTex(place, 'value')} /></td>{/if}
                            <td class="digits"
                                >{place.interval && place.evidence === 'proven'
                                    ? intervalText(place.interval)
                                    : 'not proven'}</td
                            >
                            {#if kinds}<td class="text-ink-soft">{kind(place)}</td>{/if}
                            {#if mixed}<td
                                    >{#if place.evidence}<EvidenceMark evidence={place.evidence} />{/if}</td
                                >{/if}
                        </tr>
                    {/each}
                </tbody>
            </table>
            {#if places.length > shown.length}
                <button class="quiet mt-1 -ml-1" onclick={() => (all = true)}>Show all {places.length}</button>
            {/if}
        </div>
    {/if}
    {#each asked as row, i (i)}
        {#each Object.entries(row.digits ?? {}) as [name, text] (name)}
            <p class="digits mt-1 break-all">
                {#if name !== 'value' || asked.length > 1}<span class="text-ink-faint">{name}: </span>{/if}{(
                    text ?? ''
                ).replace('-', '−')}
            </p>
        {/each}
    {/each}
    {#if finding.certificate}<Proof {finding} />{/if}
    {#if finding.strip?.length}
        <button class="quiet mt-1 -ml-1" aria-expanded={steps} onclick={() => (steps = !steps)}
            >{steps ? 'Hide the steps' : 'Show the steps'}</button
        >
        {#if steps}<Strip strip={finding.strip} name={finding.variable ?? 'x'} />{/if}
    {/if}
    {#if finding.notes.length}
        <ul class="text-ink-soft mt-1 list-disc pl-4">
            {#each finding.notes as note (note)}<li>{note}</li>{/each}
        </ul>
    {/if}
</div>

<style>
    td,
    th {
        padding: 1px 14px 1px 0;
        white-space: nowrap;
        font-weight: normal;
    }
    .digits {
        font-family: var(--font-mono);
        font-size: 12px;
    }
</style>

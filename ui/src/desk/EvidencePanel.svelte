<script lang="ts">
    import EvidenceMark from '../lib/EvidenceMark.svelte'
    import Maths from '../lib/Maths.svelte'
    import { intervalText, numberTex } from '../lib/numbers'
    import type { Finding } from '../lib/record'

    let { finding }: { finding: Finding } = $props()

    const MOST = 60
    let all = $state(false)
    const places = $derived(
        finding.passes ||
            finding.noun === 'values' ||
            (finding.noun === 'solution' && finding.values.some((v) => !v.interval))
            ? []
            : finding.values.filter((v) => v.x !== undefined)
    )
    const shown = $derived(all ? places : places.slice(0, MOST))
    const passes = $derived(finding.passes ? finding.values : [])
    const table = $derived(
        finding.noun === 'values' || (finding.noun === 'solution' && !places.length) ? finding.values : []
    )
    const columns = $derived(
        table[0] ? Object.keys(table[0]).filter((k) => !['evidence', 'exact', 'interval', 'residual'].includes(k)) : []
    )
    const cell = (row: object, name: string): string => {
        const value = (row as Record<string, unknown>)[name]
        return value === null ? 'gap' : typeof value === 'number' ? String(value).replace('-', '−') : String(value)
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
    const single = $derived(
        finding.passes || table.length ? undefined : places.length ? undefined : finding.values.find((v) => v.interval)
    )
    const mixed = $derived(places.some((v) => v.evidence !== finding.evidence))

    function kind(value: (typeof places)[number]): string {
        const times = value.multiplicity && value.multiplicity > 1 ? `, ${value.multiplicity}-fold` : ''
        return `${value.kind ?? ''}${times}${value.at_end ? ', at the end' : ''}`
    }
</script>

<div class="px-4 pb-3 pl-[52px] text-[13.5px]" data-testid="evidence">
    <p class="max-w-[75ch]">{finding.summary}</p>
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
                        <th></th><th>value</th><th>proven to lie in</th><th>kind</th>
                        {#if mixed}<th>evidence</th>{/if}
                    </tr>
                </thead>
                <tbody>
                    {#each shown as place, i (i)}
                        <tr>
                            <td><Maths tex={`${finding.variable_latex ?? 'x'}_{${i + 1}}`} /></td>
                            <td><Maths tex={numberTex(place.x ?? 0, 16)} /></td>
                            <td class="digits"
                                >{place.interval && place.evidence === 'proven'
                                    ? intervalText(place.interval)
                                    : 'not proven'}</td
                            >
                            <td class="text-ink-soft">{kind(place)}</td>
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
    <p class="text-ink-soft mt-2">Method: {finding.method}.</p>
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

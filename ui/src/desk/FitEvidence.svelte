<script lang="ts">
    import { numberText } from '../lib/numbers'
    import type { Finding, FitParameter, FitRow } from '../lib/record'

    let { finding }: { finding: Finding } = $props()

    const row = $derived(finding.values[0] as FitRow | undefined)
    const parameters = $derived(row?.parameters ?? [])
    const left = $derived(finding.fit)
    const profiles = $derived(parameters.filter((p) => p.profile && p.profile.length > 2))
    let correlated = $state(false)

    const number = (v: number | null | undefined, digits = 8) =>
        v === null || v === undefined ? '–' : numberText(v, digits)
    const facts = $derived(
        row
            ? ([
                  ['residual standard deviation', row.residual_standard_deviation],
                  ['sum of squares', row.residual_sum_of_squares],
                  ['degrees of freedom', row.degrees_of_freedom],
                  ['R²', row.r_squared],
                  ['adjusted R²', row.adjusted_r_squared],
                  ['AICc', row.aicc],
                  ['reduced χ²', row.reduced_chi_square]
              ].filter(([, v]) => v !== undefined && v !== null) as [string, number][])
            : []
    )

    /** Residuals as bars from zero, in a box of that size. */
    const bars = $derived.by(() => {
        if (!left?.residuals.length) return ''
        const [x0, x1] = [Math.min(...left.x), Math.max(...left.x)]
        const most = Math.max(...left.residuals.map(Math.abs), Number.MIN_VALUE)
        return left.residuals
            .map((r, k) => {
                const x = 3 + (((left.x[k] ?? 0) - x0) / (x1 - x0 || 1)) * 234
                return `M${x.toFixed(1)} 32V${(32 - (r / most) * 28).toFixed(1)}`
            })
            .join('')
    })

    /** The root of the rise of the sum of squares, with its sign: a straight line where the interval is symmetric. */
    function profilePath(p: FitParameter): string {
        const points = p.profile ?? []
        const [a, b] = [points[0]?.[0] ?? 0, points.at(-1)?.[0] ?? 1]
        return points
            .map(([v, rise], k) => {
                const x = 3 + ((v - a) / (b - a || 1)) * 114
                return `${k ? 'L' : 'M'}${x.toFixed(1)} ${(56 - Math.min(Math.max(rise, 0), 1.4) * 38).toFixed(1)}`
            })
            .join('')
    }
</script>

{#if row && parameters.length}
    <div class="mt-2 flex flex-wrap items-start gap-x-8 gap-y-3">
        <table class="text-left">
            <thead class="text-ink-faint text-[12px]"
                ><tr><th>parameter</th><th>value</th><th>standard error</th><th>95 % from</th><th>to</th><th></th></tr
                ></thead
            >
            <tbody class="digits">
                {#each parameters as p (p.name)}
                    <tr>
                        <td class="font-semibold">{p.name}</td><td>{number(p.value, 10)}</td><td
                            >{number(p.standard_error, 3)}</td
                        ><td>{number(p.low, 6)}</td><td>{number(p.high, 6)}</td><td class="text-ink-soft"
                            >{p.unit ?? ''}{p.at_limit ? ' on its limit' : ''}</td
                        >
                    </tr>
                {/each}
            </tbody>
        </table>
        {#if bars}
            <figure>
                <svg width="240" height="64" class="border-rule border bg-white" role="img" aria-label="Residuals"
                    ><line x1="3" x2="237" y1="32" y2="32" stroke="#8e939d" stroke-width="0.7" /><path
                        d={bars}
                        stroke="#a63a1e"
                        stroke-width="1.4"
                        fill="none"
                    /></svg
                >
                <figcaption class="text-ink-faint text-[12px]">residuals against {left?.variable}</figcaption>
            </figure>
        {/if}
        {#each profiles as p (p.name)}
            <figure>
                <svg
                    width="120"
                    height="64"
                    class="border-rule border bg-white"
                    role="img"
                    aria-label="Profile of {p.name}"
                    ><line
                        x1="3"
                        x2="117"
                        y1="18"
                        y2="18"
                        stroke="#8e939d"
                        stroke-width="0.7"
                        stroke-dasharray="3 2"
                    /><path d={profilePath(p)} stroke="#2f4b9b" stroke-width="1.4" fill="none" /></svg
                >
                <figcaption class="text-ink-faint text-[12px]">profile of {p.name}</figcaption>
            </figure>
        {/each}
    </div>
    <p class="text-ink-soft mt-2">
        {#each facts as [word, value], k (word)}{k ? ', ' : ''}{word}
            <span class="digits text-ink">{number(value, word.includes('R²') ? 7 : 6)}</span>{/each}
    </p>
    {#if row.rivals?.length}
        <p class="text-ink-soft mt-1">
            Other minima: {row.rivals
                .map(
                    (r) =>
                        `${Object.entries(r.values)
                            .slice(0, 4)
                            .map(([n, v]) => `${n} = ${number(v, 4)}`)
                            .join(
                                ', '
                            )} (sum of squares ${number(r.residual_sum_of_squares, 4)}${r.suspect ? ', with a break between the points' : ''})`
                )
                .join('; ')}.
        </p>
    {/if}
    {#if row.correlation}
        <button class="quiet mt-1 -ml-1" aria-expanded={correlated} onclick={() => (correlated = !correlated)}
            >{correlated ? 'Hide the correlations' : 'Show the correlations'}</button
        >
        {#if correlated}
            <table class="digits mt-1 text-right">
                <tbody>
                    {#each row.correlation as line, i (i)}
                        <tr
                            ><td class="font-semibold">{parameters[i]?.name}</td
                            >{#each line.slice(0, i + 1) as r, j (j)}<td
                                    >{r === null ? '–' : r.toFixed(4).replace('-', '−')}</td
                                >{/each}</tr
                        >
                    {/each}
                </tbody>
            </table>
        {/if}
    {/if}
{/if}

<style>
    td,
    th {
        padding: 1px 14px 1px 0;
        font-weight: normal;
        white-space: nowrap;
    }
    td.font-semibold {
        font-weight: 600;
    }
    .digits {
        font-family: var(--font-mono);
        font-size: 12px;
    }
</style>

<script lang="ts">
    import { Dialog } from 'bits-ui'
    import Sheet from '../../lib/Sheet.svelte'
    import { untrack } from 'svelte'
    import { api, type HandAction } from '../../api/client'
    import { wordsOf } from '../../lib/faults'
    import { Latest } from '../../lib/latest'
    import { numberText } from '../../lib/numbers'
    import FitPicture from './FitPicture.svelte'
    import { sameFit, type FitFound, type FitsFound } from './fits'

    interface Props {
        folio: number
        script: string
        /** The line of the points, and of their window; nothing while the sheet is closed. */
        at: { line: number; window: number } | undefined
        onink: (action: HandAction) => void
        onclose: () => void
    }
    let { folio, script, at, onink, onclose }: Props = $props()

    const OWN = 'own formula'

    let found = $state.raw<FitsFound | undefined>(undefined)
    let own = $state.raw<FitFound | undefined>(undefined)
    let failure = $state('')
    let ownFailure = $state('')
    let placeFailure = $state('')
    let chosen = $state('')
    let formula = $state('')
    /** Whether the own fit went down from values that the hand chose. */
    let started = $state(false)
    /** The parameter under the hand, and where the hand has it. */
    let held = $state.raw<{ name: string; value: number } | undefined>(undefined)
    /** From where to where each slider goes, as long as the formula stays. */
    let ranges = $state.raw<{ of: string; spans: Record<string, [number, number]> }>({ of: '', spans: {} })
    let place = $state('')
    let digits = $state(0)
    let name = $state('fitted')
    let band = $state<'none' | 'confidence' | 'prediction'>('none')
    let residuals = $state(false)
    let busy = $state(0)
    let wait = $state.raw<ReturnType<typeof setTimeout> | undefined>(undefined)
    const loads = new Latest()
    const tries = new Latest()

    const fits = $derived(found ? (own ? [own, ...found.fits] : found.fits) : [])
    const fit = $derived(chosen === OWN ? own : (fits.find((f) => f.name === chosen) ?? fits[0]))
    const best = $derived(Math.min(...fits.map((f) => f.aicc ?? Infinity)))
    /** What is shown is not yet what the hand has asked for. */
    const fitting = $derived(busy > 0 || wait !== undefined || held !== undefined)

    $effect(() => {
        const wanted = at
        untrack(() => {
            clearTimeout(wait)
            loads.drop()
            tries.drop()
            found = own = wait = held = undefined
            failure = ownFailure = placeFailure = formula = place = chosen = ''
            started = false
            if (wanted) void load()
        })
    })

    // The range of a slider is that of the first fit of its formula: it does not move under the hand, nor with each answer.
    $effect(() => {
        const one = fit
        if (!one || untrack(() => held)) return
        untrack(() => {
            const before = ranges.of === one.formula ? ranges.spans : {}
            const spans = one.parameters.map((p) => {
                const reach = Math.max(Math.abs(p.value), 5 * (p.standard_error ?? 0)) || 1
                const span = before[p.name]
                const inside = span && span[0] <= p.value && p.value <= span[1]
                return [p.name, inside ? span : [p.value - reach, p.value + reach]]
            })
            ranges = { of: one.formula, spans: Object.fromEntries(spans) as Record<string, [number, number]> }
        })
    })

    /** The number that was typed at x: nothing where the field is empty, NaN where it is no number. */
    function typedPlace(): number | undefined {
        const text = place.trim().replace(',', '.').replace('−', '-')
        return text ? Number(text) : undefined
    }

    function asked(): { at?: number } {
        const x = typedPlace()
        return x === undefined || !Number.isFinite(x) ? {} : { at: x }
    }

    /** quietly: only for the value at x, which changes no fit. */
    async function load(quietly = false): Promise<void> {
        if (!at) return
        const counts = loads.ask()
        busy += Number(!quietly)
        try {
            const answer = (await api.fits(folio, script, at.line, asked())) as unknown as FitsFound
            if (!counts()) return
            found = answer
            chosen ||= answer.fits[0]?.name ?? ''
        } catch (trouble) {
            if (counts()) failure = wordsOf(trouble)
        } finally {
            busy -= Number(!quietly)
        }
    }

    /** A formula of one's own, a while after the last key. */
    function typed(): void {
        clearTimeout(wait)
        wait = undefined
        started = false
        // What was fitted was another formula: it may neither be seen as this one nor inked.
        own = undefined
        ownFailure = ''
        tries.drop()
        if (!formula.trim()) {
            if (chosen === OWN) chosen = found?.fits[0]?.name ?? ''
            return
        }
        chosen = OWN
        wait = setTimeout(() => void tryOwn({}), 350)
    }

    async function tryOwn(starts: Record<string, number>, quietly = false): Promise<void> {
        wait = undefined
        if (!at || !formula.trim()) return
        const counts = tries.ask()
        busy += Number(!quietly)
        try {
            const answer = (await api.fits(folio, script, at.line, {
                formula,
                starts,
                ...asked()
            })) as unknown as FitsFound
            if (!counts()) return
            own = answer.fits[0]
            started = Object.keys(starts).length > 0
            ownFailure = ''
            chosen = OWN
        } catch (trouble) {
            if (!counts()) return
            own = undefined
            ownFailure = wordsOf(trouble)
            chosen = OWN
        } finally {
            busy -= Number(!quietly)
            if (!tries.waiting) held = undefined
        }
    }

    /** While a slider is held only it moves; when it is let go the fit goes down from there, once. */
    function start(parameter: string, value: number): void {
        if (!fit) return
        if (fit.name !== OWN) {
            own = { ...fit, name: OWN }
            formula = fit.formula
            chosen = OWN
        }
        const now = Object.fromEntries(fit.parameters.map((p) => [p.name, p.value]))
        clearTimeout(wait)
        // Keys change a slider step by step: the last one counts.
        wait = setTimeout(() => void tryOwn({ ...now, [parameter]: value }), 250)
    }

    function evaluate(): void {
        placeFailure = Number.isNaN(typedPlace()) ? 'this is no number' : ''
        if (placeFailure) return
        // Pressing Ink it leaves the field first: that must not put it out of reach.
        void load(true)
        if (own && fit && !fitting)
            void tryOwn(started ? Object.fromEntries(fit.parameters.map((p) => [p.name, p.value])) : {}, true)
    }

    /** The fit of a model of the list as the script would find it, where that is not the one that is seen. */
    async function elsewhere(seen: FitFound, line: number): Promise<FitFound | undefined> {
        const answer = (await api.fits(folio, script, line, {
            formula: seen.formula,
            ...asked()
        })) as unknown as FitsFound
        const full = answer.fits[0]
        return full && !sameFit(seen, full) ? full : undefined
    }

    async function ink(): Promise<void> {
        placeFailure = Number.isNaN(typedPlace()) ? 'this is no number' : ''
        if (!at || !fit || fitting || placeFailure) return
        const [seen, { line, window }] = [fit, at]
        if (seen.name !== OWN) {
            // The list is made by a short search, so that it is there at once; the script searches longer.
            busy += 1
            try {
                const full = await elsewhere(seen, line)
                if (full) {
                    own = full
                    formula = full.formula
                    started = false
                    chosen = OWN
                    ownFailure = 'A longer search ends elsewhere: this is what would be inked.'
                    return
                }
            } catch (trouble) {
                ownFailure = wordsOf(trouble)
                return
            } finally {
                busy -= 1
            }
        }
        const x = typedPlace()
        onink({
            do: 'fit',
            line,
            more: {
                window,
                name,
                formula: seen.formula,
                parameters: seen.parameters.map((p) => p.name),
                band,
                residuals,
                // From the values that are seen the fit ends where it is seen.
                ...(seen.name === OWN && started
                    ? { starts: Object.fromEntries(seen.parameters.map((p) => [p.name, p.value])) }
                    : {}),
                ...(x === undefined ? {} : { at: x })
            }
        })
        onclose()
    }

    function behind(one: FitFound): string {
        if (one.aicc === null) return ''
        const more = one.aicc - best
        return more < 0.005 ? 'does best' : `${numberText(more, 3)} behind`
    }
    const shown = (p: FitFound['parameters'][number]) => (digits ? numberText(p.value, digits) : p.said)
</script>

<Sheet open={at !== undefined} size="wide fits" {onclose}>
    <header class="flex items-baseline gap-3">
        <Dialog.Title class="font-serif text-[19px] font-semibold">Fit a model</Dialog.Title>
        <Dialog.Description class="text-ink-soft text-[13px]">
            {#if found}to {found.points} points of <span class="font-mono">{found.of}</span> against
                <span class="font-mono">{found.against}</span>{found.has_errors
                    ? ', weighed by their uncertainties'
                    : ''}{:else}the models of the trade are tried on the points{/if}
        </Dialog.Description>
        <span class="flex-1"></span>
        {#if fitting}<span class="text-ink-faint text-[13px]" role="status">fitting</span>{/if}
        <Dialog.Close class="quiet">Close</Dialog.Close>
    </header>
    {#if failure}
        <p class="text-mistake mt-4" role="alert">{failure}</p>
    {:else if found}
        <div class="columns mt-3 flex min-h-0 flex-1 gap-5">
            <div class="models flex w-[440px] shrink-0 flex-col">
                <label class="text-ink-soft flex items-baseline gap-2 text-[13px]"
                    >a formula of your own, in x
                    <input
                        class="box min-w-0 flex-1 font-mono"
                        bind:value={formula}
                        oninput={typed}
                        placeholder="a + b*x^c"
                        aria-label="A formula of your own"
                    /></label
                >
                {#if ownFailure}<p class="text-mistake mt-1 text-[12.5px]">{ownFailure}</p>{/if}
                <ul class="mt-3 grid min-h-0 flex-1 grid-cols-2 content-start gap-2 overflow-auto pr-1">
                    {#each fits as one (one.name)}
                        <li>
                            <button
                                class="card"
                                class:chosen={fit === one}
                                aria-pressed={fit === one}
                                onclick={() => (chosen = one.name)}
                            >
                                <FitPicture {found} fit={one} width={196} height={74} />
                                <span class="flex items-baseline"
                                    ><span class="flex-1 truncate font-semibold">{one.name}</span><span
                                        class="text-ink-soft shrink-0 text-[12px]">{behind(one)}</span
                                    ></span
                                >
                                <span class="text-ink-soft block truncate font-mono text-[11.5px]">{one.formula}</span>
                                {#if one.words.length}<span class="text-caution block truncate text-[11.5px]"
                                        >{one.words[0]}</span
                                    >{/if}
                            </button>
                        </li>
                    {/each}
                </ul>
            </div>
            {#if fit}
                <div class="flex min-w-0 flex-1 flex-col text-[13px]">
                    <div class="border-rule border bg-white p-2">
                        <FitPicture {found} {fit} width={520} height={230} large />
                    </div>
                    <table class="mt-2 w-full">
                        <tbody>
                            {#each fit.parameters as p (p.name)}
                                {@const span = ranges.spans[p.name] ?? [p.value - 1, p.value + 1]}
                                <tr
                                    ><td class="font-mono">{p.name}</td><td class="pr-3 font-mono whitespace-nowrap"
                                        >{shown(p)}</td
                                    ><td class="w-full"
                                        ><input
                                            type="range"
                                            class="accent-accent w-full"
                                            min={span[0]}
                                            max={span[1]}
                                            step={(span[1] - span[0]) / 400}
                                            value={held?.name === p.name ? held.value : p.value}
                                            aria-label="Start of {p.name}"
                                            title="Start from another value of {p.name}"
                                            oninput={(e) =>
                                                (held = { name: p.name, value: e.currentTarget.valueAsNumber })}
                                            onchange={(e) => start(p.name, e.currentTarget.valueAsNumber)}
                                        /></td
                                    ></tr
                                >
                            {/each}
                        </tbody>
                    </table>
                    <p class="text-ink-soft mt-1">
                        spread {numberText(fit.spread ?? NaN, 3)}, R² {numberText(fit.r_squared ?? NaN, 6)}{fit.chi ===
                        null
                            ? ''
                            : `, reduced χ² ${numberText(fit.chi, 3)}`}{fit.evidence === 'proven'
                            ? '; a minimum, proven'
                            : ''}
                    </p>
                    {#each fit.words as word (word)}<p class="text-caution">{word}</p>{/each}
                    <div class="mt-2 flex flex-wrap items-center gap-x-4 gap-y-2">
                        <label class="flex items-center gap-2"
                            >at x = <input
                                class="box w-[78px] font-mono"
                                bind:value={place}
                                onchange={evaluate}
                                aria-label="Value at x"
                            /></label
                        >
                        {#if placeFailure}<span class="text-mistake" role="alert">{placeFailure}</span
                            >{:else if fit.at}<span class="font-mono" class:text-caution={fit.at.beyond}
                                >{fit.at.said}{fit.at.beyond ? ' beyond the data' : ''}</span
                            >{/if}
                        <span class="flex-1"></span>
                        <label class="flex items-center gap-2"
                            >digits <select class="box" bind:value={digits}
                                ><option value={0}>as sure</option>{#each [3, 4, 6, 8, 12] as n (n)}<option value={n}
                                        >{n}</option
                                    >{/each}</select
                            ></label
                        >
                    </div>
                    <span class="flex-1"></span>
                    <footer
                        class="border-rule mt-3 flex flex-wrap items-center gap-x-3 gap-y-2 border-t pt-3 whitespace-nowrap"
                    >
                        <label class="flex items-center gap-2"
                            >band <select class="box" bind:value={band} aria-label="Band"
                                ><option value="none">none</option><option value="confidence">of the curve</option
                                ><option value="prediction">of one more point</option></select
                            ></label
                        >
                        <label class="flex items-center gap-1.5"
                            ><input type="checkbox" class="accent-accent" bind:checked={residuals} /> residuals</label
                        >
                        <span class="flex-1"></span>
                        <label class="flex items-center gap-2"
                            >called <input
                                class="box w-[92px] font-mono"
                                bind:value={name}
                                aria-label="Name of the fit"
                            /></label
                        >
                        <button class="button main" onclick={() => void ink()} disabled={fitting}>Ink it</button>
                    </footer>
                </div>
            {:else}
                <p class="text-ink-soft mt-10 min-w-0 flex-1 text-center">
                    {ownFailure ? 'There is no fit of this formula to ink.' : 'Fitting your formula'}
                </p>
            {/if}
        </div>
    {:else}
        <p class="text-ink-soft mt-8">Trying the models</p>
    {/if}
</Sheet>

<style>
    :global(.window.fits) {
        display: flex;
        flex-direction: column;
        height: 88vh;
    }
    /* Narrow windows: one below the other, and the whole sheet scrolls. */
    @media (max-width: 1000px) {
        :global(.window.fits) {
            overflow: auto;
        }
        .columns {
            flex: none;
            flex-direction: column;
        }
        .models {
            width: auto;
        }
        .models ul {
            max-height: 240px;
        }
    }
    .card {
        display: block;
        width: 100%;
        padding: 6px 8px;
        border: 1px solid var(--rule);
        border-radius: 4px;
        background: var(--raised);
        font-size: 13px;
        text-align: left;
    }
    .card:hover {
        border-color: var(--rule-strong);
    }
    .card.chosen {
        border-color: var(--accent);
        box-shadow: 0 0 0 1px var(--accent);
    }
    td {
        padding: 1px 10px 1px 0;
    }
</style>

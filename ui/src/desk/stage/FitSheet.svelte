<script lang="ts">
    import { Dialog } from 'bits-ui'
    import Sheet from '../../lib/Sheet.svelte'
    import { untrack } from 'svelte'
    import { api, type HandAction } from '../../api/client'
    import { numberText } from '../../lib/numbers'
    import FitPicture from './FitPicture.svelte'
    import type { FitFound, FitsFound } from './fits'

    interface Props {
        folio: number
        script: string
        /** The line of the points, and of their window; nothing while the sheet is closed. */
        at: { line: number; window: number } | undefined
        onink: (action: HandAction) => void
        onclose: () => void
    }
    let { folio, script, at, onink, onclose }: Props = $props()

    let found = $state.raw<FitsFound | undefined>(undefined)
    let own = $state.raw<FitFound | undefined>(undefined)
    let failure = $state('')
    let ownFailure = $state('')
    let chosen = $state('')
    let formula = $state('')
    let starts = $state<Record<string, number>>({})
    let place = $state('')
    let digits = $state(0)
    let name = $state('fitted')
    let band = $state<'none' | 'confidence' | 'prediction'>('none')
    let residuals = $state(false)
    let busy = $state(false)
    let wait: ReturnType<typeof setTimeout> | undefined

    const fits = $derived(found ? (own ? [own, ...found.fits] : found.fits) : [])
    const fit = $derived(fits.find((f) => f.name === chosen) ?? fits[0])
    const best = $derived(Math.min(...fits.map((f) => f.aicc ?? Infinity)))
    const x = $derived(Number(place.replace(',', '.').replace('−', '-')))

    $effect(() => {
        const wanted = at
        untrack(() => {
            found = own = undefined
            failure = ownFailure = formula = place = chosen = ''
            starts = {}
            if (wanted) void load()
        })
    })

    const reason = (trouble: unknown) => (trouble instanceof Error ? trouble.message : String(trouble))

    async function load(): Promise<void> {
        if (!at) return
        const line = at.line
        busy = true
        try {
            const answer = (await api.fits(folio, script, line, asked())) as unknown as FitsFound
            if (at.line !== line) return
            found = answer
            chosen ||= answer.fits[0]?.name ?? ''
        } catch (trouble) {
            failure = reason(trouble)
        }
        busy = false
    }

    const asked = () => (place.trim() && Number.isFinite(x) ? { at: x } : {})

    /** A formula of one's own, a while after the last key. */
    function typed(): void {
        clearTimeout(wait)
        if (!formula.trim()) {
            own = undefined
            ownFailure = ''
            return
        }
        wait = setTimeout(() => void tryOwn(), 350)
    }

    async function tryOwn(): Promise<void> {
        if (!at || !formula.trim()) return
        const mine = formula
        try {
            const answer = (await api.fits(folio, script, at.line, {
                formula: mine,
                starts,
                ...asked()
            })) as unknown as FitsFound
            if (mine !== formula) return
            own = answer.fits[0]
            ownFailure = ''
            chosen = 'own formula'
        } catch (trouble) {
            if (mine === formula) ownFailure = reason(trouble)
        }
    }

    /** The fit goes down from values that the hand chose. */
    function start(parameter: string, value: number): void {
        if (!fit) return
        if (fit.name !== 'own formula') formula = fit.formula
        starts = { ...Object.fromEntries(fit.parameters.map((p) => [p.name, p.value])), ...starts, [parameter]: value }
        clearTimeout(wait)
        wait = setTimeout(() => void tryOwn(), 120)
    }

    function evaluate(): void {
        void load()
        if (own) void tryOwn()
    }

    function ink(): void {
        if (!at || !fit) return
        onink({
            do: 'fit',
            line: at.line,
            more: {
                window: at.window,
                name,
                formula: fit.formula,
                parameters: fit.parameters.map((p) => p.name),
                band,
                residuals,
                ...(fit.name === 'own formula' && Object.keys(starts).length ? { starts } : {}),
                ...(fit.at ? { at: fit.at.x } : {})
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
        {#if busy}<span class="text-ink-faint text-[13px]" role="status">fitting</span>{/if}
        <Dialog.Close class="quiet">Close</Dialog.Close>
    </header>
    {#if failure}
        <p class="text-mistake mt-4" role="alert">{failure}</p>
    {:else if found}
        <div class="mt-3 flex min-h-0 flex-1 gap-5">
            <div class="flex w-[440px] shrink-0 flex-col">
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
                                {@const reach = Math.max(Math.abs(p.value), 5 * (p.standard_error ?? 0)) || 1}
                                <tr
                                    ><td class="font-mono">{p.name}</td><td class="pr-3 font-mono whitespace-nowrap"
                                        >{shown(p)}</td
                                    ><td class="w-full"
                                        ><input
                                            type="range"
                                            class="accent-accent w-full"
                                            min={p.value - reach}
                                            max={p.value + reach}
                                            step={reach / 200}
                                            value={starts[p.name] ?? p.value}
                                            aria-label="Start of {p.name}"
                                            title="Start from another value of {p.name}"
                                            oninput={(e) => start(p.name, e.currentTarget.valueAsNumber)}
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
                        {#if fit.at}<span class="font-mono" class:text-caution={fit.at.beyond}
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
                    <footer class="border-rule mt-3 flex items-center gap-x-3 border-t pt-3 whitespace-nowrap">
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
                        <button class="button main" onclick={ink}>Ink it</button>
                    </footer>
                </div>
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

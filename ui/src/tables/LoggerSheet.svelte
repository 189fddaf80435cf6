<script lang="ts">
    import { Dialog } from 'bits-ui'
    import Sheet from '../lib/Sheet.svelte'
    import FileName from './FileName.svelte'
    import { api } from '../api/client'
    import { numberText } from '../lib/numbers'
    import { said } from './tables.svelte'

    interface Props {
        folio: number
        open: boolean
        ontaken: (name: string) => void | Promise<void>
        onclose: () => void
    }
    let { folio, open, ontaken, onclose }: Props = $props()

    type Reading = [number, number | null]
    let readings = $state.raw<Reading[]>([])
    let points = $state(0)
    let identity = $state('')
    let failure = $state('')
    let name = $state('gauge.csv')
    let seed = $state(7)
    let interval = $state(0.25)
    let rate = $state(40)
    let busy = $state(false)
    const KEPT = 240

    const path = $derived.by(() => {
        const good = readings.filter((r): r is [number, number] => r[1] !== null)
        if (good.length < 2) return ''
        const [t0, t1] = [readings[0]?.[0] ?? 0, readings.at(-1)?.[0] ?? 1]
        const levels = good.map((r) => r[1])
        const [low, high] = [Math.min(...levels), Math.max(...levels)]
        const x = (t: number) => (((t - t0) / (t1 - t0 || 1)) * 560).toFixed(1)
        const y = (v: number) => (130 - ((v - low) / (high - low || 1)) * 120).toFixed(1)
        let broken = true
        return readings
            .map(([t, v]) => {
                if (v === null) {
                    broken = true
                    return ''
                }
                const step = `${broken ? 'M' : 'L'}${x(t)} ${y(v)}`
                broken = false
                return step
            })
            .join('')
    })

    async function look(): Promise<void> {
        try {
            const found = await api.logger(points)
            identity = found.identity
            // Fewer than before: a run was begun anew.
            const fresh = found.readings as Reading[]
            readings = (found.points < points || found.first > points ? fresh : [...readings, ...fresh]).slice(-KEPT)
            points = found.points
            failure = ''
        } catch (reason) {
            failure = said(reason)
        }
    }

    async function begin(): Promise<void> {
        try {
            readings = []
            points = 0
            await api.beginLogger({ seed, interval_h: interval, rate })
            await look()
        } catch (reason) {
            failure = said(reason)
        }
    }

    async function keep(): Promise<void> {
        busy = true
        try {
            await api.capture(folio, name.trim())
            await ontaken(name.trim())
        } catch (reason) {
            failure = said(reason)
        }
        busy = false
    }

    $effect(() => {
        if (!open) return
        void look()
        const clock = setInterval(() => void look(), 500)
        return () => clearInterval(clock)
    })
</script>

<Sheet {open} {onclose}>
    <Dialog.Title class="font-serif text-[19px] font-semibold">A logger on this machine</Dialog.Title>
    <Dialog.Description class="text-ink-soft mt-1 text-[13px]"
        >{identity || 'waiting for it to answer'}: its readings are simulated, of an invented gauge; the same seed gives
        the same run.</Dialog.Description
    >
    {#if failure}<p class="text-mistake mt-3" role="alert">{failure}</p>{/if}
    <svg
        class="border-rule bg-raised mt-3 h-[140px] w-full border"
        viewBox="0 0 560 140"
        preserveAspectRatio="none"
        role="img"
        aria-label="Latest readings"
        ><path d={path} fill="none" stroke="var(--accent)" stroke-width="1.5" vector-effect="non-scaling-stroke" /></svg
    >
    <p class="text-ink-soft mt-1 flex text-[13px]">
        <span data-testid="points">{points} readings</span><span class="flex-1"></span>
        {#if readings.length}<span class="font-mono"
                >{numberText(readings.at(-1)?.[0] ?? 0, 6)} h&ensp;{readings.at(-1)?.[1] === null
                    ? 'missed'
                    : `${numberText(readings.at(-1)?.[1] ?? 0, 6)} m`}</span
            >{/if}
    </p>
    <div class="text-ink-soft mt-3 flex flex-wrap items-end gap-4 text-[13px]">
        <label class="field">seed <input class="box w-[90px]" type="number" min="0" bind:value={seed} /></label>
        <label class="field"
            >hours between readings <input
                class="box w-[90px]"
                type="number"
                min="0.001"
                max="24"
                step="any"
                bind:value={interval}
            /></label
        >
        <label class="field"
            >readings a second <input
                class="box w-[90px]"
                type="number"
                min="0.1"
                max="1000"
                step="any"
                bind:value={rate}
            /></label
        >
        <button class="button" onclick={() => void begin()}>Begin a run</button>
    </div>
    <footer class="mt-4 flex items-center gap-3">
        <FileName bind:name />
        <span class="flex-1"></span>
        <Dialog.Close class="button">Close</Dialog.Close>
        <button class="button main" disabled={busy || !points || !name.trim()} onclick={() => void keep()}
            >Keep what was read</button
        >
    </footer>
</Sheet>

<style>
    .field {
        display: grid;
        gap: 2px;
    }
</style>

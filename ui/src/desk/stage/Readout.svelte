<script lang="ts">
    import EvidenceMark from '../../lib/EvidenceMark.svelte'
    import { intervalText, whatText } from '../../lib/numbers'
    import type { Reading } from './hand.svelte'
    import { plain, readOff, type Panel } from './geometry'

    interface Props {
        reading: Reading
        panel: Panel
        scale: number
        pinned?: boolean
        onmark?: () => void
        onclose?: () => void
    }
    let { reading, panel, scale, pinned = false, onmark, onclose }: Props = $props()

    const yAxis = $derived(reading.series.right && panel.right ? panel.right : panel.y)
    const slope = $derived(
        typeof reading.slope === 'number' ? String(Number(reading.slope.toPrecision(5))).replace('-', '−') : undefined
    )
    const kind = $derived(reading.found?.what ? whatText(reading.found) : '')
    const [left, top, width] = $derived(panel.bounds_px)
    const toLeft = $derived(reading.px.x > left + width * 0.6)
    const below = $derived(reading.px.y < top + 60)
</script>

<div
    class="bg-raised border-rule-strong absolute z-10 rounded-[3px] border px-2 py-1 font-sans text-[12.5px] leading-[1.35]"
    class:pointer-events-none={!pinned}
    style:left="{reading.px.x * scale + (toLeft ? -10 : 10)}px"
    style:top="{reading.px.y * scale + (below ? 10 : -10)}px"
    style:transform="translate({toLeft ? '-100%' : '0'}, {below ? '0' : '-100%'})"
    style:box-shadow="var(--shadow)"
    data-testid={pinned ? 'pinned' : 'reading'}
>
    {#if reading.series.label}<div class="text-ink-soft max-w-[220px] truncate">{plain(reading.series.label)}</div>{/if}
    <div class="font-mono whitespace-nowrap">
        {#if typeof reading.t === 'number'}<span class="text-ink-soft">at </span>{readOff(reading.t, panel.x)}
            <br />{/if}
        <span class="text-ink-soft">{plain(panel.x.text).split('/')[0]?.trim() || 'x'}</span>
        {readOff(reading.place.x, panel.x)}
        <br />
        <span class="text-ink-soft">{plain(yAxis.text).split('/')[0]?.trim() || 'y'}</span>
        {readOff(reading.place.y, yAxis)}
        {#if slope !== undefined}<br /><span class="text-ink-soft">slope</span> {slope}{/if}
    </div>
    {#if reading.finding}
        <div class="text-accent">finding {reading.finding}{kind ? `: ${kind}` : ''}</div>
        {#if reading.found?.interval}
            <div
                class="text-ink-soft flex items-center gap-1 font-mono text-[11.5px] whitespace-nowrap"
                data-testid="bracket"
            >
                <EvidenceMark evidence={reading.found.evidence ?? 'open'} word={false} />
                {intervalText(reading.found.interval)}
            </div>
        {/if}
    {/if}
    {#if pinned}
        <!-- svelte-ignore a11y_no_static_element_interactions -->
        <div class="mt-1 flex gap-1" onpointerdown={(event) => event.stopPropagation()}>
            <button class="quiet !px-1" onclick={onmark} title="Write this place into the script as a mark"
                >Ink as a mark</button
            >
            <button class="quiet !px-1" onclick={onclose} aria-label="Take this reading away">Close</button>
        </div>
    {/if}
</div>

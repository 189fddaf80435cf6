<script lang="ts">
    import { copied } from '../../lib/clipboard'
    import type { Hand, MenuAt } from './hand.svelte'
    import { plain, readOff } from './geometry'

    interface Props {
        hand: Hand
        menu: MenuAt
        scale: number
        /** Where the sheet lies in the window. */
        origin: DOMRect
        /** Edit a text where it stands. */
        onedit: () => void
        onclose: () => void
    }
    let { hand, menu, scale, origin, onedit, onclose }: Props = $props()

    interface Item {
        label: string
        run: () => void
    }

    const panel = $derived(hand.panels[menu.panel])
    const items = $derived.by(() => {
        const { series, box, place } = menu
        const found: Item[] = []
        const pen = { label: 'Style', run: () => hand.choose(menu.px) }
        if (series && panel) {
            found.push(pen)
            found.push({
                label: 'Keep this reading',
                run: () => {
                    hand.hover(menu.px)
                    setTimeout(() => hand.pin(), 60)
                }
            })
            if (series.kind === 'curve' && series.exact && !panel.space) {
                found.push({ label: 'Roots here', run: () => void hand.askWindow('roots', series) })
                found.push({ label: 'Lowest and highest', run: () => void hand.askWindow('extremes', series) })
                if (place)
                    found.push({ label: 'Tangent here', run: () => void hand.drawBeside('tangent', series, place.x) })
                found.push({ label: 'Derivative', run: () => void hand.drawBeside('derivative', series) })
                found.push({ label: 'Area down to zero', run: () => void hand.askWindow('integral', series) })
                found.push({ label: 'Shade down to zero', run: () => void hand.drawBeside('band', series) })
                for (const other of hand.others({ panel: menu.panel, series, low: 0, high: 0 }).slice(0, 3))
                    found.push({
                        label: `Crossings with ${plain(other.label ?? '') || `the curve of line ${other.line}`}`,
                        run: () =>
                            void hand.ask(
                                'crossings',
                                { panel: menu.panel, series, low: panel.x.low, high: panel.x.high },
                                other
                            )
                    })
            }
            if (series.kind === 'points' || series.kind === 'line')
                found.push({ label: 'Fit a model', run: () => hand.choose(menu.px) })
        } else if (box) {
            if (box.kind !== 'mark') found.push({ label: 'Edit', run: onedit })
            found.push(pen)
        } else {
            found.push({
                label: 'Settings of the figure',
                run: () =>
                    (hand.chosen = { kind: 'figure', panel: 0, line: hand.record?.line ?? 0, at: { x: 20, y: 20 } })
            })
        }
        if (place && panel && !panel.space) {
            const y = series?.right && panel.right ? panel.right : panel.y
            const read = series && hand.reading?.series.id === series.id ? hand.reading.place : place
            const said = `${readOff(read.x, panel.x)}, ${readOff(read.y, y)}`
            found.push({
                label: `Copy ${said}`,
                run: () => void copied(said)
            })
        }
        if (hand.isZoomed) found.push({ label: 'Back to the whole', run: () => hand.home() })
        return found
    })

    let list: HTMLElement | undefined = $state()
    $effect(() => list?.querySelector('button')?.focus({ preventScroll: true }))

    function key(event: KeyboardEvent): void {
        event.stopPropagation()
        const buttons = [...(list?.querySelectorAll('button') ?? [])]
        const now = buttons.indexOf(document.activeElement as HTMLButtonElement)
        const to = { ArrowDown: now + 1, ArrowUp: now - 1, Home: 0, End: buttons.length - 1 }[event.key]
        if (to !== undefined) {
            event.preventDefault()
            buttons[(to + buttons.length) % buttons.length]?.focus()
        } else if (event.key === 'Escape' || event.key === 'Tab') onclose()
    }

    // It stays in the window: left of the pointer, or further up, where there is no room otherwise.
    let high = $state(0)
    const WIDE = 226
    const left = $derived.by(() => {
        const x = origin.left + menu.px.x * scale
        return x + WIDE > innerWidth - 8 ? x - WIDE : x
    })
    const top = $derived(Math.max(8, Math.min(origin.top + menu.px.y * scale, innerHeight - high - 8)))
</script>

<svelte:window
    onpointerdown={(e) => {
        if (!list?.contains(e.target as Node)) onclose()
    }}
/>
<!-- svelte-ignore a11y_interactive_supports_focus -->
<div
    bind:this={list}
    bind:offsetHeight={high}
    class="menu fixed z-30 w-[226px] cursor-default"
    style:left="{left}px"
    style:top="{top}px"
    role="menu"
    aria-label="What can be done here"
    data-testid="stage-menu"
    onkeydown={key}
    onpointerdown={(e) => e.stopPropagation()}
    onpointerup={(e) => e.stopPropagation()}
>
    {#each items as item (item.label)}
        <button
            class="menu-item w-full text-left"
            role="menuitem"
            onclick={() => {
                onclose()
                item.run()
            }}>{item.label}</button
        >
    {/each}
</div>

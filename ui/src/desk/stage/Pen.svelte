<script lang="ts">
    import { api, type Dressing } from '../../api/client'
    import { wordsOf } from '../../lib/faults'
    import { Latest } from '../../lib/latest'
    import type { Chosen, Hand } from './hand.svelte'
    import type { ShownSeries } from '../../lib/record'
    import { plain, type Panel } from './geometry'

    interface Props {
        hand: Hand
        chosen: Chosen
        inks: { name: string; code: string }[]
        online: (line: number) => void
        /** Points are to be fitted: the line that draws them, and that of their window. */
        onfit: (at: { line: number; window: number }) => void
    }
    let { hand, chosen, inks, online, onfit }: Props = $props()

    const KINDS: Record<ShownSeries['kind'], string> = {
        curve: 'Curve',
        points: 'Points',
        line: 'Line',
        bars: 'Bars',
        band: 'Band',
        rule: 'Straight line',
        text: 'Text',
        mark: 'Mark',
        contours: 'Level lines',
        surface: 'Surface',
        path: 'Curve in space',
        plane: 'Section'
    }
    const DASHES = ['solid', 'dashed', 'dotted', 'dash-dotted']
    const MARKERS = ['none', 'dot', 'ring', 'square', 'diamond', 'triangle', 'cross', 'plus']
    const PLACES = ['top left', 'top', 'top right', 'left', 'centre', 'right', 'bottom left', 'bottom', 'bottom right']
    const OUTSIDE = ['outside right', 'outside left', 'outside top', 'outside bottom']

    const series = $derived(chosen.series)
    const panel = $derived<Panel | undefined>(hand.panels[chosen.panel])
    const which = $derived(chosen.kind.replace(' axis', '') as 'x' | 'y' | 'z' | 'right' | 'colour')
    const axis = $derived(
        which === 'x'
            ? panel?.x
            : which === 'z'
              ? panel?.z
              : which === 'right'
                ? panel?.right
                : which === 'colour'
                  ? panel?.colours
                  : panel?.y
    )
    /** What the script says of what the pen is at, read from its tree. */
    let dressing = $state.raw<Dressing | undefined>(undefined)
    const dressings = new Latest()
    $effect(() => {
        const [script, figure] = [hand.desk.script, hand.record?.line ?? 1]
        const [line, window] = [chosen.line, panel?.line ?? figure]
        const counts = dressings.ask()
        api.dressing(script, line, window, figure).then(
            (found) => {
                if (counts()) dressing = found
            },
            (reason: unknown) => {
                if (counts()) hand.desk.say(wordsOf(reason))
            }
        )
    })
    /** An option's value as the statement has it now. */
    const now = (name: string): string | undefined => dressing?.options[name]
    const isLine = $derived(series && ['curve', 'line', 'rule', 'band', 'path', 'contours'].includes(series.kind))
    const title = $derived(
        chosen.kind === 'series' || chosen.kind === 'text'
            ? `${KINDS[series?.kind ?? 'curve']}${series?.label ? ` “${plain(series.label)}”` : ''}`
            : ({ legend: 'Legend', title: 'Title', 'panel title': 'Title of the panel', figure: 'Figure' }[
                  chosen.kind
              ] ??
                  `${panel?.space && which !== 'colour' ? which : which === 'x' ? 'Horizontal' : which === 'y' ? 'Vertical' : which === 'right' ? 'Right' : 'Colour'} axis`)
    )

    function option(name: string, value: string | null, trying = false): void {
        const more: Record<string, unknown> = { name, value }
        if (series && (name === 'colour' || name === 'label')) {
            const { item, count } = hand.itemOf(series)
            if (count > 1) {
                more.item = item
                const mine = hand.series.filter((s) => s.line === series.line && s.panel === series.panel)
                more.others = mine.map((s) => (name === 'colour' ? `"${s.colour}"` : `"${s.label ?? ''}"`))
            }
        }
        const action = { do: 'option', line: chosen.line, more }
        if (trying) hand.tryOn(action)
        else void hand.write(action)
    }

    function axisSays(more: Record<string, unknown>): void {
        void hand.write({ do: 'axis', line: panel?.line ?? chosen.line, more: { which, ...more } })
    }

    function axisEnds(low: string, high: string): void {
        const [a, b] = [Number(low.replace('−', '-')), Number(high.replace('−', '-'))]
        if (Number.isFinite(a) && Number.isFinite(b) && a !== b)
            axisSays({ low: a, high: b, logarithmic: axis?.scale === 'logarithmic' })
    }

    const word = (name: string, value: string | null): void =>
        void hand.write({
            do: 'word',
            line:
                name === 'style' || name === 'size' || name === 'decimal'
                    ? (hand.record?.line ?? 0)
                    : (panel?.line ?? 0),
            more: { word: name, value }
        })
    const legend = (more: Record<string, unknown>): void =>
        void hand.write({ do: 'legend', line: panel?.line ?? chosen.line, more })

    function heading(kind: 'title' | 'caption' | 'panel', text: string): void {
        void hand.write({
            do: 'heading',
            line: kind === 'panel' ? (panel?.line ?? 0) : (hand.record?.line ?? 0),
            more: { which: kind, text }
        })
    }
    /** Where the script puts a text, as it is written there. */
    const textAt = $derived<[string, string]>([dressing?.place?.[0] ?? '', dressing?.place?.[1] ?? ''])
    function putText(x: string, y: string): void {
        const [a, b] = [Number(x.replace('−', '-')), Number(y.replace('−', '-'))]
        const up = series?.right && panel?.right ? panel.right : panel?.y
        if (!panel || !up || !Number.isFinite(a) || !Number.isFinite(b)) return
        void hand.write({
            do: 'place',
            line: chosen.line,
            more: { x: a, x_span: panel.x.high - panel.x.low, y: b, y_span: up.high - up.low }
        })
    }
    const entered = (event: Event) => (event.currentTarget as HTMLInputElement).value
    let shell: HTMLElement | undefined = $state()
    $effect(() => {
        void chosen.kind
        shell?.querySelector<HTMLElement>('label input, .pen-ink, select')?.focus({ preventScroll: true })
    })
</script>

{#snippet choice(
    label: string,
    name: string,
    values: string[],
    usual: string,
    unsaid = 'none',
    called: Record<string, string> = {}
)}
    <label class="pen-row">
        <span>{label}</span>
        <select
            class="pen-field"
            value={now(name) ?? usual}
            onchange={(e) => option(name, entered(e) || null)}
            aria-label={label}
        >
            {#each values as value (value)}<option {value}>{called[value] ?? (value || unsaid)}</option>{/each}
        </select>
    </label>
{/snippet}

{#snippet amount(label: string, name: string, low: number, high: number, step: number, usual: number, unit: string)}
    {@const value = Number(now(name) ?? usual)}
    <label class="pen-row">
        <span>{label}</span>
        <input
            type="range"
            min={low}
            max={high}
            {step}
            {value}
            aria-label={label}
            oninput={(e) => option(name, entered(e), true)}
            onchange={(e) => option(name, entered(e))}
        />
        <span class="w-[52px] whitespace-nowrap text-right font-mono text-[12px]">{value}{unit}</span>
    </label>
{/snippet}

{#snippet text(label: string, value: string, done: (text: string) => void, hint = '')}
    <label class="pen-row">
        <span>{label}</span>
        <input
            class="pen-field"
            {value}
            placeholder={hint}
            aria-label={label}
            onchange={(e) => done(entered(e))}
            onkeydown={(e) => {
                if (e.key === 'Enter') e.currentTarget.blur()
            }}
        />
    </label>
{/snippet}

{#snippet colours()}
    <div class="pen-row">
        <span>Colour</span>
        <span class="flex items-center gap-[2px]">
            {#each inks as ink (ink.name)}
                <button
                    class="pen-ink"
                    class:pen-taken={series?.colour.toUpperCase() === ink.code.toUpperCase()}
                    style:background={ink.code}
                    title={ink.name}
                    aria-label="Colour {ink.name}"
                    onpointerenter={() => option('colour', ink.name, true)}
                    onclick={() => option('colour', ink.name)}
                ></button>
            {/each}
            <input
                type="color"
                class="h-[20px] w-[20px] flex-none cursor-pointer border-0 bg-transparent p-0"
                value={series?.colour ?? '#20242c'}
                aria-label="Another colour"
                title="Another colour"
                onchange={(e) => option('colour', `"${entered(e).toUpperCase()}"`)}
            />
        </span>
    </div>
{/snippet}

<div
    bind:this={shell}
    class="bg-raised border-rule flex max-h-full w-[264px] flex-col overflow-auto rounded-md border px-3 pt-2 pb-3 text-[13px]"
    style:box-shadow="var(--shadow)"
    role="dialog"
    tabindex="-1"
    aria-label="Pen: {title}"
    data-testid="pen"
    onkeydown={(event) => {
        if (event.key === 'Escape') hand.chosen = undefined
    }}
>
    <div class="mb-1 flex items-baseline gap-2">
        <h3 class="min-w-0 flex-1 truncate font-serif text-[15px] font-semibold">{title}</h3>
        <button class="quiet !px-1 text-[12.5px]" onclick={() => online(chosen.line)}>line {chosen.line}</button>
        <button class="quiet !px-1" aria-label="Close the pen" onclick={() => (hand.chosen = undefined)}>✕</button>
    </div>
    {#if chosen.kind === 'series' && series}
        {#if (series.kind === 'points' || series.kind === 'line') && dressing?.against}
            <button
                class="button mb-2 !h-7 w-full justify-center"
                onclick={() => onfit({ line: chosen.line, window: panel?.line ?? chosen.line })}
                title="Try the models of the trade on these points">Fit a model</button
            >
        {/if}
        {@render colours()}
        {#if isLine || series.kind === 'points'}
            {#if series.kind !== 'points'}{@render amount('Width', 'width', 0.25, 4, 0.25, 1.25, ' pt')}{/if}
            {#if series.kind !== 'points' && series.kind !== 'band'}{@render choice(
                    'Dash',
                    'dash',
                    DASHES,
                    'solid'
                )}{/if}
        {/if}
        {#if ['curve', 'line', 'points'].includes(series.kind)}
            {#if series.kind === 'points'}
                {@render choice('Marker', 'marker', ['', ...MARKERS.slice(1)], '', 'by itself')}
            {:else}
                {@render choice('Marker', 'marker', MARKERS, 'none')}
            {/if}
            {@render amount('Mark size', 'size', 1, 12, 0.5, 4, ' pt')}
        {/if}
        {#if series.kind !== 'mark'}
            {@render amount('Opacity', 'opacity', 0.1, 1, 0.05, 1, '')}
            {@render text(
                'Label',
                series.label ?? '',
                (t) => option('label', t ? `"${t}"` : null),
                '$…$ is mathematics'
            )}
        {/if}
        {#if ['curve', 'line', 'points'].includes(series.kind)}
            {@render choice('Label stands', 'written', ['legend', 'along', 'end'], 'legend')}
        {/if}
        {#if series.kind === 'surface' || series.kind === 'contours'}
            {@render choice('Level lines', 'levels', ['', '5', '8', '10', '12', '16', '24'], '')}
        {/if}
        {#if series.kind === 'contours'}
            {@render choice('Bands filled', 'fill', ['true', 'false'], 'false')}
        {/if}
        {#if series.kind === 'surface'}
            {@render choice('Sheet', 'fill', ['', 'true', 'false'], '', 'even', {
                true: 'in bands',
                false: 'lines only'
            })}
            {@render choice('Mesh lines', 'mesh', ['', '8', '12', '16', '24', '32'], '')}
        {/if}
        {#if !['mark', 'rule', 'surface', 'contours', 'path', 'plane'].includes(series.kind) && !panel?.space}{@render choice(
                'Axis',
                'axis',
                ['left', 'right'],
                'left'
            )}{/if}
        {#if series.kind === 'curve' && series.exact}
            {@render choice('Filled to zero', 'fill', ['true', 'false'], 'false')}
        {/if}
    {:else if chosen.kind === 'text' && series}
        {@render text(
            'Text',
            series.text ?? '',
            (t) => void hand.write({ do: 'text', line: chosen.line, more: { text: t } })
        )}
        {@render colours()}
        {@render amount('Size', 'size', 5, 14, 0.5, 7, ' pt')}
        {@render choice('Stands', 'place', ['above', 'below', 'left', 'right', 'centre'], 'centre')}
        {@render amount('Turned', 'turn', -90, 90, 5, 0, '°')}
        <div class="pen-row">
            <span>At</span>
            <span class="flex items-center gap-1">
                <input
                    class="pen-field !w-[72px]"
                    aria-label="Place across"
                    value={textAt[0]}
                    onchange={(e) => putText(entered(e), textAt[1])}
                />
                <input
                    class="pen-field !w-[72px]"
                    aria-label="Place up"
                    value={textAt[1]}
                    onchange={(e) => putText(textAt[0], entered(e))}
                />
            </span>
        </div>
        <p class="text-ink-faint mt-1 text-[12px]">Drag the text to move it.</p>
    {:else if chosen.kind === 'legend'}
        <div class="pen-row items-start">
            <span>Place</span>
            <span class="grid grid-cols-3 gap-[3px]">
                {#each PLACES as place (place)}
                    <button
                        class="pen-place"
                        title={place}
                        aria-label="Legend {place}"
                        onclick={() => legend({ words: place })}
                    ></button>
                {/each}
            </span>
        </div>
        <label class="pen-row">
            <span>Or</span>
            <select class="pen-field" aria-label="Legend outside" onchange={(e) => legend({ words: entered(e) })}>
                <option value="">where there is room</option>
                {#each OUTSIDE as place (place)}<option value={place}>{place}</option>{/each}
            </select>
        </label>
        {@render text('Title', '', (t) => legend({ options: { title: t ? `"${t}"` : null } }))}
        <label class="pen-row">
            <span>Columns</span>
            <select
                class="pen-field"
                aria-label="Columns"
                onchange={(e) => legend({ options: { columns: entered(e) } })}
            >
                {#each ['1', '2', '3', '4'] as n (n)}<option>{n}</option>{/each}
            </select>
        </label>
        <button class="button mt-1 self-start" onclick={() => legend({ none: true })}>No legend</button>
        <p class="text-ink-faint mt-1 text-[12px]">Drag the legend to put it anywhere.</p>
    {:else if chosen.kind === 'title'}
        {@render text('Title', dressing?.title ?? '', (t) => heading('title', t))}
        {@render text('Caption', dressing?.caption ?? '', (t) => heading('caption', t))}
    {:else if chosen.kind === 'panel title'}
        {@render text('Title', panel?.title ?? '', (t) => heading('panel', t))}
    {:else if chosen.kind === 'figure'}
        {@render text('Title', dressing?.title ?? '', (t) => heading('title', t))}
        {@render text('Caption', dressing?.caption ?? '', (t) => heading('caption', t))}
        <label class="pen-row">
            <span>Made for</span>
            <select class="pen-field" aria-label="Made for" onchange={(e) => word('style', entered(e) || null)}>
                <option value="">this page</option>
                <option value="print">print, one column</option>
                <option value="print, columns 2">print, two columns</option>
                <option value="slide">a slide</option>
                <option value="poster">a poster</option>
                <option value="grey">print without colour</option>
            </select>
        </label>
        <label class="pen-row">
            <span>Size / mm</span>
            <span class="flex items-center gap-1">
                <input
                    class="pen-field !w-[58px]"
                    aria-label="Width in mm"
                    value={hand.record?.layout.width_mm}
                    onchange={(e) =>
                        word('size', `${Number(entered(e))} mm by ${hand.record?.layout.height_mm ?? 80} mm`)}
                />
                ×
                <input
                    class="pen-field !w-[58px]"
                    aria-label="Height in mm"
                    value={hand.record?.layout.height_mm}
                    onchange={(e) =>
                        word('size', `${hand.record?.layout.width_mm ?? 120} mm by ${Number(entered(e))} mm`)}
                />
            </span>
        </label>
        <label class="pen-row"
            ><span>Gridlines</span>
            <select
                class="pen-field"
                aria-label="Gridlines"
                value={dressing?.gridlines ?? ''}
                onchange={(e) => word('gridlines', entered(e) || null)}
            >
                <option value="">none</option><option>major</option><option>minor</option>
            </select>
        </label>
        <label class="pen-tick"
            ><input
                type="checkbox"
                checked={dressing?.frame ?? true}
                onchange={(e) => word('frame', e.currentTarget.checked ? null : 'no')}
            /> Axis lines</label
        >
        <label class="pen-tick"
            ><input
                type="checkbox"
                checked={panel?.true_scale === true}
                onchange={(e) => word('true scale', e.currentTarget.checked ? 'yes' : null)}
            /> True scale: one unit is as long on both axes</label
        >
        <label class="pen-tick"
            ><input
                type="checkbox"
                checked={dressing?.decimal_comma ?? false}
                onchange={(e) => word('decimal', e.currentTarget.checked ? 'comma' : null)}
            /> Decimal comma</label
        >
    {:else if axis}
        {@render text('Text', axis.text ?? '', (t) => axisSays({ text: t }), 'quantity / unit')}
        <div class="pen-row">
            <span>Window</span>
            <span class="flex items-center gap-1">
                <input
                    class="pen-field !w-[72px]"
                    aria-label="From"
                    value={String(Number((axis.reversed ? axis.high : axis.low).toPrecision(6)))}
                    onchange={(e) => axisEnds(entered(e), String(axis.reversed ? axis.low : axis.high))}
                />
                to
                <input
                    class="pen-field !w-[72px]"
                    aria-label="To"
                    value={String(Number((axis.reversed ? axis.low : axis.high).toPrecision(6)))}
                    onchange={(e) => axisEnds(String(axis.reversed ? axis.high : axis.low), entered(e))}
                />
            </span>
        </div>
        <label class="pen-row">
            <span>Scale</span>
            <select
                class="pen-field"
                aria-label="Scale"
                value={axis.scale}
                onchange={(e) => axisSays({ options: { scale: entered(e) } })}
            >
                <option>linear</option><option>logarithmic</option><option>signed-logarithmic</option>
            </select>
        </label>
        {#if which !== 'colour'}
            <label class="pen-row">
                <span>Numbers</span>
                <select
                    class="pen-field"
                    aria-label="Numbers"
                    onchange={(e) => axisSays({ options: { numbers: entered(e) } })}
                >
                    <option value="plain">plain</option><option value="powers">powers of ten</option>
                    <option value="percent">per cent</option><option value="pi">multiples of π</option>
                    <option value="degrees">angles in degrees</option>
                </select>
            </label>
            <label class="pen-row">
                <span>Small ticks</span>
                <select
                    class="pen-field"
                    aria-label="Small ticks"
                    onchange={(e) => axisSays({ options: { minor: entered(e) || null } })}
                >
                    <option value="">none</option><option>1</option><option>4</option><option>9</option>
                </select>
            </label>
            <label class="pen-tick"
                ><input
                    type="checkbox"
                    checked={axis.reversed === true}
                    onchange={(e) =>
                        axisSays({ options: { direction: e.currentTarget.checked ? 'reversed' : 'forward' } })}
                /> Reversed</label
            >
        {/if}
    {/if}
</div>

<style>
    .pen-row {
        display: flex;
        align-items: center;
        gap: 8px;
        min-height: 28px;
    }
    .pen-row > span:first-child {
        width: 78px;
        flex: none;
        color: var(--ink-soft);
    }
    .pen-row input[type='range'] {
        min-width: 0;
        flex: 1;
        accent-color: var(--accent);
    }
    .pen-field {
        width: 100%;
        min-width: 0;
        height: 24px;
        padding: 0 6px;
        border: 1px solid var(--rule);
        border-radius: 3px;
        background: var(--paper);
    }
    .pen-tick {
        display: flex;
        align-items: center;
        gap: 7px;
        min-height: 26px;
    }
    .pen-tick input {
        accent-color: var(--accent);
    }
    .pen-ink {
        width: 14px;
        height: 18px;
        border-radius: 2px;
        border: 1px solid rgb(0 0 0 / 0.15);
    }
    .pen-taken {
        outline: 2px solid var(--ink);
        outline-offset: 1px;
    }
    .pen-place {
        width: 22px;
        height: 15px;
        border: 1px solid var(--rule-strong);
        border-radius: 2px;
    }
    .pen-place:hover,
    .pen-place:focus-visible {
        background: var(--accent-wash);
        border-color: var(--accent);
    }
</style>

<script lang="ts">
    import { Popover } from 'bits-ui'
    import { figureAddress, type Dpi, type FigureFormat } from '../api/client'
    import { notices } from '../lib/notices.svelte'
    import type { ShownFigure } from './desk.svelte'

    interface Props {
        figure: ShownFigure | undefined
        record: number | undefined
        /** Where the stage shows another window or view than the script says: writes that into the script. */
        onkeep: (() => void) | undefined
    }
    let { figure, record, onkeep }: Props = $props()

    let open = $state(false)
    let grey = $state(false)
    let step = $state('')
    const ready = $derived(figure !== undefined && !figure.old && record !== undefined)
    const DPIS: Dpi[] = [300, 600, 1200]
    const drawings: { label: string; note: string; format: FigureFormat }[] = [
        { label: 'SVG', note: 'for the web', format: 'svg' },
        { label: 'PDF', note: 'fonts embedded', format: 'pdf' },
        { label: 'EPS', note: 'fonts embedded', format: 'eps' }
    ]
    const pictures: { label: string; format: FigureFormat }[] = [
        { label: 'PNG', format: 'png' },
        { label: 'TIFF', format: 'tiff' }
    ]
    const numbers: { label: string; note: string; format: FigureFormat }[] = [
        { label: 'Numbers, CSV', note: 'what is drawn', format: 'csv' },
        { label: 'Numbers, XLSX', note: 'what is drawn', format: 'xlsx' }
    ]
    const texts: { label: string; note: string; format: FigureFormat }[] = [
        { label: 'LaTeX', note: 'figure, caption, label', format: 'tex' },
        { label: 'Description', note: 'the figure in words', format: 'txt' }
    ]
    const shapes: { label: string; note: string; format: FigureFormat }[] = [
        { label: 'Surface, STL', note: 'triangles, for printing in plastic', format: 'stl' },
        { label: 'Surface, PLY', note: 'triangles with colours', format: 'ply' },
        { label: 'Surface, OBJ', note: 'triangles as text', format: 'obj' },
        { label: 'Surface, glTF', note: 'for slides and pages', format: 'glb' }
    ]
    const kinds = $derived(new Set(figure?.record.layout.series?.map((s) => s.kind)))
    const wantedStep = $derived(Number(step.replace(',', '.')) > 0 ? Number(step.replace(',', '.')) : undefined)

    async function save(format: FigureFormat, dpi?: Dpi): Promise<void> {
        if (!figure || record === undefined) return
        open = false
        const table = format === 'csv' || format === 'xlsx'
        const address = figureAddress(record, figure.record.name, format, {
            download: true,
            grey,
            ...(dpi ? { dpi } : {}),
            ...(table && wantedStep ? { step: wantedStep } : {})
        })
        if (table && wantedStep) {
            // A step can be too fine, or there may be no function: then the server says why, and that is shown here.
            const answer = await fetch(address)
            if (!answer.ok) {
                notices.say(((await answer.json()) as { message: string }).message)
                return
            }
        }
        const link = document.createElement('a')
        link.href = address
        link.download = ''
        link.click()
    }

    /** Up and down from line to line; letters and numbers belong to the field at the end. */
    function among(event: KeyboardEvent): void {
        const steps: Record<string, number> = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 }
        const step = steps[event.key]
        const field = event.target instanceof HTMLInputElement
        if (!step || (field && event.key.match(/Left|Right/))) return
        const all = [...(event.currentTarget as HTMLElement).querySelectorAll<HTMLElement>('button, input')]
        const at = all.indexOf(event.target as HTMLElement)
        all[(at + step + all.length) % all.length]?.focus()
        event.preventDefault()
    }

    async function copy(kind: 'png' | 'svg'): Promise<void> {
        if (!figure || record === undefined) return
        open = false
        const address = figureAddress(record, figure.record.name, kind, {
            grey,
            ...(kind === 'png' ? { dpi: 300 } : {})
        })
        try {
            const blob = fetch(address).then((a) => a.blob())
            const item: Record<string, Promise<Blob>> = kind === 'png'
                ? { 'image/png': blob }
                : { 'text/plain': blob.then(async (b) => new Blob([await b.text()], { type: 'text/plain' })) }
            await navigator.clipboard.write([new ClipboardItem(item)])
            notices.say(
                kind === 'png' ? 'The picture is on the clipboard.' : 'The drawing is on the clipboard, as SVG.'
            )
        } catch {
            notices.say('The browser does not let the clipboard be written here; export the file instead.')
        }
    }
</script>

{#snippet file(label: string, note: string, format: FigureFormat)}
    <button class="menu-item" onclick={() => save(format)}>
        <span>{label}</span><span class="text-ink-faint text-[12.5px]">{note}</span>
    </button>
{/snippet}

<Popover.Root bind:open>
    <Popover.Trigger
        class="button"
        disabled={!ready}
        title={ready ? undefined : 'There is no finished figure to export'}>Export</Popover.Trigger
    >
    <Popover.Portal>
        <Popover.Content
            class="menu !w-[312px] overflow-auto"
            style="max-height: var(--bits-popover-content-available-height)"
            sideOffset={6}
            align="end"
            aria-label="Export"
            onkeydown={among}
        >
            {#if figure}
                <p class="menu-note">
                    {figure.record.title || `Figure from line ${figure.record.line}`}, {figure.record.layout.width_mm} × {figure
                        .record.layout.height_mm} mm
                </p>
            {/if}
            {#if onkeep}
                <p class="menu-note text-caution" role="status">
                    The stage shows another view than the script says. Files have the view of the script.
                    <button
                        class="quiet"
                        onclick={() => {
                            open = false
                            onkeep()
                        }}>Keep what is seen</button
                    >
                </p>
            {/if}
            {#each drawings as { label, note, format } (label)}{@render file(label, note, format)}{/each}
            {#each pictures as file (file.label)}
                <div class="flex items-center pl-[9px]">
                    <span class="flex-1">{file.label}</span>
                    {#each DPIS as dpi (dpi)}
                        <button
                            class="menu-item !w-auto !px-2"
                            aria-label="{file.label}, {dpi} dots an inch"
                            onclick={() => save(file.format, dpi)}>{dpi}</button
                        >
                    {/each}
                    <span class="text-ink-faint pr-2 text-[12.5px]">dpi</span>
                </div>
            {/each}
            <button class="menu-item" aria-pressed={grey} onclick={() => (grey = !grey)}>
                <span>Without colour</span><span class="text-accent text-[12.5px]">{grey ? 'yes' : 'no'}</span>
            </button>
            <div class="menu-rule"></div>
            <button class="menu-item" onclick={() => copy('png')}>
                <span>Copy as PNG</span><span class="text-ink-faint text-[12.5px]">to the clipboard</span>
            </button>
            <button class="menu-item" onclick={() => copy('svg')}>
                <span>Copy as SVG</span><span class="text-ink-faint text-[12.5px]">to the clipboard</span>
            </button>
            <div class="menu-rule"></div>
            {#each numbers as { label, note, format } (label)}
                {@render file(label, wantedStep ? `curves on a step of ${wantedStep}` : note, format)}
            {/each}
            <label class="flex items-center gap-2 px-[9px] py-1 text-[13px]">
                <span class="text-ink-soft flex-1">Curves on a regular step</span>
                <input
                    class="border-rule bg-paper h-[24px] w-[70px] rounded-sm border px-1"
                    placeholder="as drawn"
                    bind:value={step}
                    aria-label="Regular step"
                />
            </label>
            <p class="text-ink-faint px-[9px] pb-1 text-[12px]">
                In CSV, what a spreadsheet would carry out stands behind an apostrophe; numbers never do.
            </p>
            <div class="menu-rule"></div>
            {#each texts as { label, note, format } (label)}{@render file(label, note, format)}{/each}
            {#if kinds.has('contours')}{@render file('Level lines, GeoJSON', "in the axes' numbers", 'geojson')}{/if}
            {#if kinds.has('surface')}
                {#each shapes as { label, note, format } (label)}{@render file(label, note, format)}{/each}
            {/if}
        </Popover.Content>
    </Popover.Portal>
</Popover.Root>

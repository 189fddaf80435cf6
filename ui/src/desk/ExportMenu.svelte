<script lang="ts">
    import { DropdownMenu } from 'bits-ui'
    import { figureAddress, type Dpi, type FigureFormat } from '../api/client'
    import { notices } from '../lib/notices.svelte'
    import type { ShownFigure } from './desk.svelte'

    let { figure, record }: { figure: ShownFigure | undefined; record: number | undefined } = $props()

    let grey = $state(false)
    let step = $state('')
    const ready = $derived(figure !== undefined && !figure.old && record !== undefined)
    const DPIS: Dpi[] = [300, 600, 1200]
    const drawings: { label: string; note: string; format: FigureFormat }[] = [
        { label: 'SVG', note: 'as on the stage', format: 'svg' },
        { label: 'PDF', note: 'fonts embedded', format: 'pdf' },
        { label: 'EPS', note: 'fonts embedded', format: 'eps' }
    ]
    const pictures: { label: string; format: FigureFormat }[] = [
        { label: 'PNG', format: 'png' },
        { label: 'TIFF', format: 'tiff' }
    ]
    const numbers: { label: string; note: string; format: FigureFormat }[] = [
        { label: 'Numbers, CSV', note: 'what is drawn', format: 'csv' },
        { label: 'Numbers, XLSX', note: 'what is drawn', format: 'xlsx' },
        { label: 'LaTeX', note: 'figure, caption, label', format: 'tex' },
        { label: 'Description', note: 'the figure in words', format: 'txt' }
    ]
    const shapes: { label: string; note: string; format: FigureFormat }[] = [
        { label: 'STL', note: 'triangles, for printing in plastic', format: 'stl' },
        { label: 'PLY', note: 'triangles with colours', format: 'ply' },
        { label: 'OBJ', note: 'triangles as text', format: 'obj' },
        { label: 'glTF', note: 'for slides and pages', format: 'glb' }
    ]
    const kinds = $derived(new Set(figure?.record.layout.series?.map((s) => s.kind)))
    const wantedStep = $derived(Number(step.replace(',', '.')) > 0 ? Number(step.replace(',', '.')) : undefined)

    async function save(format: FigureFormat, dpi?: Dpi): Promise<void> {
        if (!figure || record === undefined) return
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

    async function copy(kind: 'png' | 'svg'): Promise<void> {
        if (!figure || record === undefined) return
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

<DropdownMenu.Root>
    <DropdownMenu.Trigger
        class="button"
        disabled={!ready}
        title={ready ? undefined : 'There is no finished figure to export'}>Export</DropdownMenu.Trigger
    >
    <DropdownMenu.Portal>
        <DropdownMenu.Content class="menu !w-[286px]" sideOffset={6} align="end">
            {#if figure}
                <p class="menu-note">
                    {figure.record.title || `Figure from line ${figure.record.line}`}, {figure.record.layout.width_mm} × {figure
                        .record.layout.height_mm} mm
                </p>
            {/if}
            {#each drawings as file (file.label)}
                <DropdownMenu.Item class="menu-item" onSelect={() => save(file.format)}>
                    <span>{file.label}</span><span class="text-ink-faint text-[12.5px]">{file.note}</span>
                </DropdownMenu.Item>
            {/each}
            {#each pictures as file (file.label)}
                <div class="flex items-center pl-[9px]">
                    <span class="flex-1">{file.label}</span>
                    {#each DPIS as dpi (dpi)}
                        <DropdownMenu.Item
                            class="menu-item !px-2"
                            aria-label="{file.label}, {dpi} dots an inch"
                            onSelect={() => save(file.format, dpi)}>{dpi}</DropdownMenu.Item
                        >
                    {/each}
                    <span class="text-ink-faint pr-2 text-[12.5px]">dpi</span>
                </div>
            {/each}
            <DropdownMenu.CheckboxItem class="menu-item" bind:checked={grey} closeOnSelect={false}>
                {#snippet children({ checked })}
                    <span>Without colour</span><span class="text-accent text-[12.5px]">{checked ? 'yes' : 'no'}</span>
                {/snippet}
            </DropdownMenu.CheckboxItem>
            <div class="menu-rule"></div>
            <DropdownMenu.Item class="menu-item" onSelect={() => copy('png')}>
                <span>Copy as PNG</span><span class="text-ink-faint text-[12.5px]">to the clipboard</span>
            </DropdownMenu.Item>
            <DropdownMenu.Item class="menu-item" onSelect={() => copy('svg')}>
                <span>Copy as SVG</span><span class="text-ink-faint text-[12.5px]">to the clipboard</span>
            </DropdownMenu.Item>
            <div class="menu-rule"></div>
            {#each numbers as file (file.label)}
                <DropdownMenu.Item class="menu-item" onSelect={() => save(file.format)}>
                    <span>{file.label}</span><span class="text-ink-faint text-[12.5px]"
                        >{wantedStep && (file.format === 'csv' || file.format === 'xlsx')
                            ? `curves on a step of ${wantedStep}`
                            : file.note}</span
                    >
                </DropdownMenu.Item>
            {/each}
            {#if kinds.has('contours')}
                <DropdownMenu.Item class="menu-item" onSelect={() => save('geojson')}>
                    <span>Level lines, GeoJSON</span><span class="text-ink-faint text-[12.5px]"
                        >in the axes' numbers</span
                    >
                </DropdownMenu.Item>
            {/if}
            {#if kinds.has('surface')}
                {#each shapes as file (file.label)}
                    <DropdownMenu.Item class="menu-item" onSelect={() => save(file.format)}>
                        <span>Surface, {file.label}</span><span class="text-ink-faint text-[12.5px]">{file.note}</span>
                    </DropdownMenu.Item>
                {/each}
            {/if}
            <label class="flex items-center gap-2 px-[9px] py-1 text-[13px]">
                <span class="text-ink-soft flex-1">Curves on a regular step</span>
                <input
                    class="border-rule bg-paper h-[24px] w-[70px] rounded-sm border px-1"
                    placeholder="as drawn"
                    bind:value={step}
                    aria-label="Regular step"
                    onkeydown={(e) => e.key !== 'Escape' && e.stopPropagation()}
                />
            </label>
        </DropdownMenu.Content>
    </DropdownMenu.Portal>
</DropdownMenu.Root>

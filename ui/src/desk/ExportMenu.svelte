<script lang="ts">
    import { DropdownMenu } from 'bits-ui'
    import { figureAddress } from '../api/client'
    import type { ShownFigure } from './desk.svelte'

    let { figure, record }: { figure: ShownFigure | undefined; record: number | undefined } = $props()

    let grey = $state(false)
    const ready = $derived(figure !== undefined && !figure.old && record !== undefined)
    const files: { label: string; note: string; format: 'svg' | 'pdf' | 'png'; dpi?: 300 | 600 }[] = [
        { label: 'SVG', note: 'as on the stage', format: 'svg' },
        { label: 'PDF', note: 'fonts embedded', format: 'pdf' },
        { label: 'PNG', note: '300 dots an inch', format: 'png', dpi: 300 },
        { label: 'PNG', note: '600 dots an inch', format: 'png', dpi: 600 }
    ]

    function save(file: (typeof files)[number]): void {
        if (!figure || record === undefined) return
        const link = document.createElement('a')
        link.href = figureAddress(record, figure.record.name, file.format, {
            download: true,
            grey,
            ...(file.dpi ? { dpi: file.dpi } : {})
        })
        link.download = ''
        link.click()
    }
</script>

<DropdownMenu.Root>
    <DropdownMenu.Trigger
        class="button"
        disabled={!ready}
        title={ready ? undefined : 'There is no finished figure to export'}>Export</DropdownMenu.Trigger
    >
    <DropdownMenu.Portal>
        <DropdownMenu.Content class="menu" sideOffset={6} align="end">
            {#if figure}
                <p class="menu-note">
                    {figure.record.title || `Figure from line ${figure.record.line}`}, {figure.record.layout.width_mm} × {figure
                        .record.layout.height_mm} mm
                </p>
            {/if}
            {#each files as file (file.label + file.note)}
                <DropdownMenu.Item class="menu-item" onSelect={() => save(file)}>
                    <span>{file.label}</span><span class="text-ink-faint text-[12.5px]">{file.note}</span>
                </DropdownMenu.Item>
            {/each}
            <div class="menu-rule"></div>
            <DropdownMenu.CheckboxItem class="menu-item" bind:checked={grey} closeOnSelect={false}>
                {#snippet children({ checked })}
                    <span>Without colour</span><span class="text-accent text-[12.5px]">{checked ? 'yes' : 'no'}</span>
                {/snippet}
            </DropdownMenu.CheckboxItem>
        </DropdownMenu.Content>
    </DropdownMenu.Portal>
</DropdownMenu.Root>

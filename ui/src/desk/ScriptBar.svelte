<script lang="ts">
    import { DropdownMenu } from 'bits-ui'
    import { router } from '../lib/router.svelte'
    import { partsOf } from './parts'
    import type { Desk } from './desk.svelte'

    interface Props {
        desk: Desk
        formulas: boolean
        ongo: (line: number) => void
        onfind: () => void
        onrename: () => void
        onformulas: (shown: boolean) => void
        onstart: (script: string) => void
    }
    let { desk, formulas, ongo, onfind, onrename, onformulas, onstart }: Props = $props()

    const parts = $derived(partsOf(desk.script))

    function kept(from: number, to: number): string {
        const count = desk.reused.filter((line) => line >= from && line <= to).length
        return count ? `${count} kept` : ''
    }

    async function bring(event: Event & { currentTarget: HTMLInputElement }): Promise<void> {
        const input = event.currentTarget
        for (const file of input.files ?? []) await desk.bringIn(file)
        input.value = ''
    }
    let picker: HTMLInputElement | undefined = $state()
</script>

<div class="border-rule text-ink-soft flex h-[30px] shrink-0 items-center gap-1 border-b px-3 text-[12.5px]">
    {#if parts.length}
        <DropdownMenu.Root>
            <DropdownMenu.Trigger class="quiet">Parts</DropdownMenu.Trigger>
            <DropdownMenu.Portal>
                <DropdownMenu.Content class="menu max-w-[420px]" sideOffset={4} align="start">
                    {#each parts as part (part.line)}
                        <DropdownMenu.Item class="menu-item" onSelect={() => ongo(part.line)}>
                            <span class="truncate">{part.title}</span>
                            <span class="text-ink-faint shrink-0 text-[12px]"
                                >{kept(part.line, part.end) || `line ${part.line}`}</span
                            >
                        </DropdownMenu.Item>
                    {/each}
                    <div class="menu-rule"></div>
                    <p class="menu-note">
                        What did not change is kept from the run before. Beside a part's title: run it alone, or from
                        there on.
                    </p>
                </DropdownMenu.Content>
            </DropdownMenu.Portal>
        </DropdownMenu.Root>
    {/if}
    <DropdownMenu.Root>
        <DropdownMenu.Trigger class="quiet" title="A few lines to begin with, to be changed"
            >Begin with</DropdownMenu.Trigger
        >
        <DropdownMenu.Portal>
            <DropdownMenu.Content class="menu" sideOffset={4} align="start">
                {#each desk.words?.starts ?? [] as start (start.title)}
                    <DropdownMenu.Item class="menu-item" onSelect={() => onstart(start.script)}
                        >{start.title}</DropdownMenu.Item
                    >
                {/each}
                <div class="menu-rule"></div>
                <DropdownMenu.CheckboxItem
                    class="menu-item"
                    checked={desk.whatNow}
                    onCheckedChange={(on) => desk.setWhatNow(on)}
                    >{desk.whatNow ? '✓ ' : ''}Offer what may come next at an empty line</DropdownMenu.CheckboxItem
                >
            </DropdownMenu.Content>
        </DropdownMenu.Portal>
    </DropdownMenu.Root>
    <button class="quiet" onclick={onfind} title="Find and replace in the script (Ctrl F)">Find</button>
    <button
        class="quiet"
        onmousedown={(e) => e.preventDefault()}
        onclick={onrename}
        title="Rename the name at the cursor everywhere (F2)">Rename</button
    >
    <DropdownMenu.Root>
        <DropdownMenu.Trigger class="quiet" title="Files that tables are read from">Files</DropdownMenu.Trigger>
        <DropdownMenu.Portal>
            <DropdownMenu.Content class="menu" sideOffset={4} align="start">
                {#each desk.tables as table (table.name)}
                    <DropdownMenu.Item
                        class="menu-item"
                        onSelect={() => router.go(`/folio/${desk.id}/tables/${encodeURIComponent(table.name)}`)}
                    >
                        <span class="truncate font-mono text-[12.5px]">{table.name}</span>
                        <span class="text-ink-faint text-[12px]">{table.rows} rows</span>
                    </DropdownMenu.Item>
                {:else}
                    <p class="menu-note">No files yet. table NAME from "FILE" reads one.</p>
                {/each}
                <div class="menu-rule"></div>
                <DropdownMenu.Item class="menu-item" onSelect={() => router.go(`/folio/${desk.id}/tables`)}
                    >See and mend the tables</DropdownMenu.Item
                >
                <DropdownMenu.Item class="menu-item" onSelect={() => picker?.click()}>Bring in a file</DropdownMenu.Item
                >
            </DropdownMenu.Content>
        </DropdownMenu.Portal>
    </DropdownMenu.Root>
    <input
        bind:this={picker}
        class="hidden"
        type="file"
        accept=".csv,.txt,.tsv,.dat,.xlsx,.json,.parquet"
        multiple
        onchange={bring}
        aria-label="A file with a table"
    />
    <span class="flex-1"></span>
    <label class="flex items-center gap-1.5">
        <input
            type="checkbox"
            class="accent-accent"
            checked={formulas}
            onchange={(e) => onformulas(e.currentTarget.checked)}
        />
        formulas
    </label>
</div>

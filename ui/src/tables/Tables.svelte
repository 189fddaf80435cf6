<script lang="ts">
    import { DropdownMenu } from 'bits-ui'
    import { api, tableAddress } from '../api/client'
    import DropFile from '../lib/DropFile.svelte'
    import Mark from '../lib/Mark.svelte'
    import { follow } from '../lib/router.svelte'
    import ThemeMenu from '../lib/ThemeMenu.svelte'
    import ColumnPanel from './ColumnPanel.svelte'
    import Doubts from './Doubts.svelte'
    import Grid from './Grid.svelte'
    import ImportSheet from './ImportSheet.svelte'
    import LoggerSheet from './LoggerSheet.svelte'
    import { decided } from './recipe'
    import { Tables } from './tables.svelte'
    import TypeSheet from './TypeSheet.svelte'
    import VersionSheet from './VersionSheet.svelte'

    let { folio, table }: { folio: number; table: string } = $props()

    // The page makes a new view for each folio.
    // svelte-ignore state_referenced_locally
    const tables = new Tables(folio)
    // svelte-ignore state_referenced_locally
    void tables.load(table)
    let title = $state('')
    // svelte-ignore state_referenced_locally
    api.folio(folio).then(
        (found) => (title = found.title),
        () => (title = '')
    )

    let picker: HTMLInputElement | undefined = $state()
    let incoming = $state.raw<{ name: string; data: Blob } | undefined>(undefined)
    let typing = $state(false)
    let versions = $state(false)
    let logger = $state(false)
    let column = $state<string | undefined>(undefined)

    const FORMATS = [
        { label: 'CSV', note: 'RFC 4180', fmt: 'csv' },
        { label: 'XLSX', note: 'a workbook', fmt: 'xlsx' },
        { label: 'JSON', note: 'records', fmt: 'json' },
        { label: 'Parquet', note: 'columns', fmt: 'parquet' },
        { label: 'The file as it came', note: '', fmt: 'original' }
    ]
    const shown = $derived(tables.table)
    const mended = $derived(shown?.touched ?? 0)
    const line = $derived(shown ? `table ${nameFor(shown.name)} from "${shown.name}"` : '')

    function nameFor(file: string): string {
        const stem = file.replace(/\.[^.]*$/, '').replace(/[^\p{L}\p{N}_]+/gu, '_')
        return /^[\p{L}_]/u.test(stem) ? stem : `t_${stem}`
    }

    function take(file: File | undefined | null): void {
        if (file) incoming = { name: file.name, data: file }
    }

    function counted(n: number, word: string): string {
        return `${n.toLocaleString('en').replaceAll(',', '\u202f')} ${word}${n === 1 ? '' : 's'}`
    }

    $effect(() => {
        document.title = `Tables of ${title || 'a folio'} · Open Lemma`
    })
    $effect(() => {
        // Another table has other columns.
        void tables.name
        column = undefined
    })
</script>

<DropFile promise="Let go to look at this file" ondrop={take} />

<div class="flex h-full flex-col">
    <header class="border-rule flex items-center gap-3 border-b px-4 py-[6px]">
        <a href="/" onclick={follow} class="text-ink hover:text-accent rounded-sm p-1" title="To the shelf"
            ><Mark /><span class="sr-only">Shelf</span></a
        >
        <a
            href="/folio/{folio}"
            onclick={follow}
            class="hover:text-accent font-serif text-[17px] font-semibold"
            title="To the desk">{title || 'Folio'}</a
        >
        <h1 class="text-ink-soft font-serif text-[17px]">Tables</h1>
        <span class="flex-1"></span>
        <input
            bind:this={picker}
            type="file"
            class="hidden"
            accept=".csv,.tsv,.txt,.dat,.xlsx,.json,.parquet"
            aria-label="A file with a table"
            onchange={(event) => {
                take(event.currentTarget.files?.[0])
                event.currentTarget.value = ''
            }}
        />
        <ThemeMenu />
        <button class="button" onclick={() => (logger = true)} title="Readings from an instrument on this machine"
            >From a logger</button
        >
        <button class="button" onclick={() => (typing = true)} title="Paste cells, or type a table"
            >Paste or type</button
        >
        <button class="button main" onclick={() => picker?.click()}>Bring in a file</button>
    </header>
    {#if tables.loading}
        <p class="text-ink-soft p-8">Opening the tables</p>
    {:else if !tables.list.length}
        <main class="mx-auto max-w-[560px] px-6 py-20">
            <h2 class="font-serif text-xl font-semibold">No tables yet</h2>
            <p class="text-ink-soft mt-3 font-serif text-[17px]">
                Drop a file here, or bring one in: text with commas, semicolons or tabs, a workbook, JSON records,
                Parquet. How it reads is shown before it is kept, and the file itself is never changed.
            </p>
            {#if tables.failure}<p class="text-mistake mt-4" role="alert">{tables.failure}</p>{/if}
            <p class="mt-6 flex gap-2">
                <button class="button main" onclick={() => picker?.click()}>Bring in a file</button>
                <button class="button" onclick={() => (typing = true)}>Paste or type</button>
            </p>
        </main>
    {:else if shown}
        <div class="flex min-h-0 flex-1">
            <nav class="border-rule w-[212px] shrink-0 overflow-auto border-r py-3" aria-label="Tables">
                {#each tables.list as one (one.name)}
                    <button
                        class="entry"
                        aria-current={one.name === shown.name ? 'page' : undefined}
                        onclick={() => tables.open(one.name)}
                    >
                        <span class="block truncate font-mono text-[13px]">{one.name}</span>
                        <span class="text-ink-faint text-[12px]"
                            >{counted(one.rows, 'row')}, {counted(one.columns.length, 'column')}</span
                        >
                    </button>
                {/each}
            </nav>
            <main class="flex min-w-0 flex-1 flex-col">
                <div class="border-rule flex flex-wrap items-center gap-x-4 gap-y-1 border-b px-4 py-2">
                    <input
                        class="name font-mono text-[15px] font-semibold"
                        aria-label="Name of the file"
                        value={shown.name}
                        size={Math.max(shown.name.length, 6)}
                        onchange={(e) => void tables.rename(e.currentTarget.value)}
                    />
                    <span class="text-ink-soft text-[13px]" data-testid="count"
                        >{tables.total === shown.rows
                            ? counted(shown.rows, 'row')
                            : `${counted(tables.total, 'row')} of ${shown.rows}`}</span
                    >
                    <code
                        class="text-ink-soft bg-table truncate rounded-sm px-2 py-[2px] text-[12px]"
                        title="How a script reads this table">{line}</code
                    >
                    <span class="flex-1"></span>
                    {#if tables.busy}<span class="text-ink-faint text-[13px]" role="status">at work</span>{/if}
                    {#if mended}
                        <label class="text-ink-soft flex items-center gap-1.5 text-[13px]">
                            <input
                                type="checkbox"
                                class="accent-accent"
                                checked={tables.mendedOnly}
                                onchange={(e) => tables.setMendedOnly(e.currentTarget.checked)}
                            />
                            only rows that were touched or are bad ({mended})
                        </label>
                    {/if}
                    {#if tables.undoable}<button class="quiet" onclick={() => void tables.undo()}>Undo</button>{/if}
                    {#if shown.number > 1}<button class="quiet" onclick={() => (versions = true)}
                            >Version {shown.number}</button
                        >{/if}
                    <DropdownMenu.Root>
                        <DropdownMenu.Trigger class="button !h-7">Take out</DropdownMenu.Trigger>
                        <DropdownMenu.Portal>
                            <DropdownMenu.Content class="menu" sideOffset={4} align="end">
                                {#each FORMATS as f (f.fmt)}
                                    <DropdownMenu.Item class="menu-item">
                                        {#snippet child({ props })}
                                            <a {...props} href="{tableAddress(folio, shown.name)}/as/{f.fmt}" download
                                                ><span>{f.label}</span><span class="text-ink-faint text-[12px]"
                                                    >{f.note}</span
                                                ></a
                                            >
                                        {/snippet}
                                    </DropdownMenu.Item>
                                {/each}
                                <div class="menu-rule"></div>
                                <DropdownMenu.Item class="menu-item text-mistake" onSelect={() => void tables.remove()}
                                    >Remove this table</DropdownMenu.Item
                                >
                            </DropdownMenu.Content>
                        </DropdownMenu.Portal>
                    </DropdownMenu.Root>
                </div>
                {#if tables.recipe}
                    {@const recipe = tables.recipe}
                    <Doubts {recipe} ondecide={(doubt, other) => void tables.mend(decided(recipe, doubt, other))} />
                {/if}
                <div class="flex min-h-0 flex-1">
                    <Grid {tables} chosen={column} onchoose={(name) => (column = column === name ? undefined : name)} />
                    {#if column !== undefined}
                        <ColumnPanel {tables} name={column} onname={(n) => (column = n)} />
                    {/if}
                </div>
            </main>
        </div>
    {/if}
</div>

<ImportSheet
    {folio}
    {incoming}
    known={tables.list.map((t) => t.name)}
    onbring={async (name, data, recipe) => {
        if (await tables.bringIn(name, data, recipe)) incoming = undefined
    }}
    onclose={() => (incoming = undefined)}
/>
<TypeSheet
    open={typing}
    ontake={(name, text) => {
        typing = false
        incoming = { name, data: new Blob([text], { type: 'text/csv' }) }
    }}
    onclose={() => (typing = false)}
/>
<LoggerSheet
    {folio}
    open={logger}
    ontaken={async (name) => {
        logger = false
        await tables.load(name)
    }}
    onclose={() => (logger = false)}
/>
{#if shown && shown.number > 1}
    <VersionSheet {folio} name={shown.name} number={shown.number} open={versions} onclose={() => (versions = false)} />
{/if}

<style>
    .entry {
        display: block;
        width: 100%;
        padding: 6px 16px;
        border-left: 3px solid transparent;
        text-align: left;
    }
    .entry:hover {
        background: var(--table);
    }
    .entry[aria-current='page'] {
        border-left-color: var(--accent);
        background: var(--accent-wash);
    }
    .name {
        border: 1px solid transparent;
        border-radius: 3px;
        padding: 1px 4px;
        background: transparent;
    }
    .name:hover {
        border-color: var(--rule);
    }
</style>

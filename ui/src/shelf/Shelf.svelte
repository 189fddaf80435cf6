<script lang="ts">
    import { Dialog } from 'bits-ui'
    import { api, type DeletedFolio, type FolioCard } from '../api/client'
    import DropFile from '../lib/DropFile.svelte'
    import { wordsOf } from '../lib/faults'
    import Mark from '../lib/Mark.svelte'
    import { notices } from '../lib/notices.svelte'
    import { follow, router } from '../lib/router.svelte'
    import Sheet from '../lib/Sheet.svelte'
    import ThemeMenu from '../lib/ThemeMenu.svelte'
    import { ago } from './ago'
    import Card from './Card.svelte'

    let folios = $state<FolioCard[] | undefined>(undefined)
    let trouble = $state('')
    let renaming = $state<number | undefined>(undefined)

    async function tried<T>(work: () => Promise<T>): Promise<T | undefined> {
        try {
            return await work()
        } catch (reason) {
            notices.say(wordsOf(reason))
            return undefined
        }
    }

    async function load(): Promise<void> {
        try {
            folios = await api.shelf()
            trouble = ''
        } catch (reason) {
            trouble = wordsOf(reason)
        }
    }

    async function create(): Promise<void> {
        const made = await tried(() => api.create(''))
        if (made) router.go(`/folio/${made.id}`)
    }

    async function rename(folio: FolioCard, title: string): Promise<void> {
        renaming = undefined
        if (!title.trim() || title.trim() === folio.title) return
        await tried(() => api.change(folio.id, folio.version, { title }))
        await load()
    }

    async function duplicate(folio: FolioCard): Promise<void> {
        if (await tried(() => api.duplicate(folio.id))) await load()
    }

    async function remove(folio: FolioCard): Promise<void> {
        try {
            await api.remove(folio.id)
        } catch (reason) {
            notices.say(wordsOf(reason))
            return
        }
        await load()
        notices.say(`“${folio.title}” is off the shelf.`, {
            label: 'Undo',
            run: async () => {
                await tried(() => api.restore(folio.id))
                await load()
            }
        })
    }

    let deleted = $state<{ folios: DeletedFolio[]; days: number } | undefined>(undefined)

    async function showDeleted(): Promise<void> {
        deleted = await tried(() => api.deleted())
    }

    async function takeBack(folio: DeletedFolio): Promise<void> {
        if (!(await tried(() => api.restore(folio.id)))) return
        await Promise.all([load(), showDeleted()])
    }

    let picker: HTMLInputElement | undefined = $state()

    /** An exported figure, brought back: to the folio that it came from. */
    async function trace(file: File | undefined | null): Promise<void> {
        if (!file) return
        const found = await tried(() => api.trace(file))
        if (!found) return
        const changed = found.current ? '' : ' Its script has changed since.'
        notices.say(`This figure is from “${found.folio}”, record ${found.record}.${changed}`)
        router.go(`/folio/${found.folio_id}`)
    }

    document.title = 'Shelf · Open Lemma'
    void load()
</script>

<DropFile promise="Let go to find the folio of this figure" ondrop={(file) => void trace(file)} />

<div class="flex h-full flex-col">
    <header class="border-rule flex items-center gap-3 border-b px-6 py-3">
        <Mark />
        <span class="font-serif text-lg font-semibold">Open Lemma</span>
        <span class="flex-1"></span>
        <input
            bind:this={picker}
            type="file"
            class="hidden"
            accept=".svg,.pdf,.eps,.png,.tiff,.tif,.xlsx,.stl,.ply,.obj,.glb,.geojson"
            aria-label="An exported figure"
            onchange={(event) => {
                void trace(event.currentTarget.files?.[0])
                event.currentTarget.value = ''
            }}
        />
        <button
            class="button"
            title="Choose an exported figure, or drop one here, to find the folio and record that it came from"
            onclick={() => picker?.click()}>Trace a figure</button
        >
        <button class="button" title="Folios that were deleted, to be taken back" onclick={showDeleted}>Bin</button>
        <a class="button" href="/handbook" onclick={follow}>Handbook</a>
        <ThemeMenu />
        <button class="button main" onclick={create}>New folio</button>
    </header>
    <main class="flex-1 overflow-auto px-6 pt-8 pb-20">
        <div class="mx-auto max-w-[1120px]">
            <h1 class="font-serif text-2xl font-semibold">Shelf</h1>
            {#if trouble}
                <p class="text-mistake mt-6" role="alert">
                    {trouble} <button class="quiet" onclick={load}>Try again</button>
                </p>
            {:else if folios?.length === 0}
                <p class="text-ink-soft mt-6 max-w-prose font-serif text-lg">
                    The shelf is empty. A folio holds one piece of work: a script, and everything that came of it.
                    <button class="quiet font-sans text-sm" onclick={create}>Begin the first one</button>
                </p>
            {:else if folios}
                <ul class="mt-6 grid grid-cols-[repeat(auto-fill,minmax(258px,1fr))] gap-x-7 gap-y-9">
                    {#each folios as folio (folio.id)}
                        <Card
                            {folio}
                            renaming={renaming === folio.id}
                            onrename={(title) => rename(folio, title)}
                            onaskrename={() => (renaming = folio.id)}
                            onduplicate={() => duplicate(folio)}
                            onremove={() => remove(folio)}
                        />
                    {/each}
                </ul>
            {/if}
        </div>
    </main>
</div>

<Sheet open={deleted !== undefined} onclose={() => (deleted = undefined)}>
    <header class="flex items-baseline gap-3">
        <Dialog.Title class="font-serif text-[19px] font-semibold">Deleted folios</Dialog.Title>
        <span class="flex-1"></span>
        <Dialog.Close class="quiet">Close</Dialog.Close>
    </header>
    {#if deleted}
        <Dialog.Description class="text-ink-soft mt-1 text-[13px]"
            >Each can be taken back for {deleted.days} days.</Dialog.Description
        >
        {#if !deleted.folios.length}
            <p class="text-ink-faint mt-6 font-serif text-[15px] italic">
                Nothing was deleted in the last {deleted.days} days.
            </p>
        {/if}
        <ul class="mt-4 max-h-[50vh] overflow-auto">
            {#each deleted.folios as folio (folio.id)}
                <li class="border-rule flex items-baseline gap-4 border-t py-2">
                    <span class="min-w-0 flex-1 truncate font-serif text-[16px]" title={folio.title}>{folio.title}</span
                    >
                    <span class="text-ink-faint shrink-0 text-[12.5px]">deleted {ago(folio.deleted_at)}</span>
                    <button class="button shrink-0" aria-label="Take back {folio.title}" onclick={() => takeBack(folio)}
                        >Take back</button
                    >
                </li>
            {/each}
        </ul>
    {/if}
</Sheet>

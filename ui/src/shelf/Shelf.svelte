<script lang="ts">
    import { Dialog } from 'bits-ui'
    import { tick } from 'svelte'
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

    const AWAY_KEY = 'open-lemma-examples-away'
    const WELCOMED_KEY = 'open-lemma-welcomed'
    const ORDER = ['One function', 'Measurements and fits', 'Surfaces', 'Loops and figures for print']

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

    const own = $derived((folios ?? []).filter((f) => !f.example))
    const examples = $derived((folios ?? []).filter((f) => f.example))
    const groups = $derived(
        [...new Set(examples.map((f) => f.example ?? ''))]
            .sort((a, b) => ORDER.indexOf(a) - ORDER.indexOf(b))
            .map((group) => [group, examples.filter((f) => f.example === group)] as const)
    )
    let away = $state(localStorage.getItem(AWAY_KEY) === 'yes')
    let welcomed = $state(localStorage.getItem(WELCOMED_KEY) === 'yes')

    function putAway(): void {
        away = !away
        localStorage.setItem(AWAY_KEY, away ? 'yes' : 'no')
    }

    function welcome(): void {
        welcomed = true
        localStorage.setItem(WELCOMED_KEY, 'yes')
    }

    async function bring(): Promise<void> {
        const made = await tried(() => api.create(''))
        if (made) router.go(`/folio/${made.id}/tables`)
    }

    async function look(): Promise<void> {
        if (away) putAway()
        await tick()
        document.getElementById('examples')?.scrollIntoView({ block: 'start' })
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
        <a class="button" href="/course" onclick={follow} title="Twelve lessons of five minutes">Course</a>
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
            {:else if folios}
                {#if !own.length && !welcomed}
                    <section class="border-rule bg-raised mt-6 rounded-sm border px-6 py-5" aria-label="Welcome">
                        <p class="max-w-[64ch] font-serif text-[19px] leading-[1.45]">
                            Write a few lines about a function or your measurements; out come figures that can be
                            printed and numbers that say how sure they are.
                        </p>
                        <p class="mt-4 flex flex-wrap gap-2">
                            <button class="button main" onclick={create}>Start a figure</button>
                            <button class="button" onclick={bring}>Bring measurements</button>
                            <button class="button" onclick={look}>Look at examples</button>
                            <a class="button" href="/course" onclick={follow}>Take the course</a>
                            <span class="flex-1"></span>
                            <button class="quiet" onclick={welcome}>Not again</button>
                        </p>
                    </section>
                {/if}
                {#if own.length}
                    {@render cards(own)}
                {:else if welcomed}
                    <p class="text-ink-soft mt-6 max-w-prose font-serif text-lg">
                        No folios of your own yet. A folio holds one piece of work: a script, and everything that came
                        of it. <button class="quiet font-sans text-sm" onclick={create}>Begin the first one</button>
                    </p>
                {/if}
                {#if examples.length}
                    <div class="border-rule mt-12 flex items-baseline gap-4 border-t pt-5" id="examples">
                        <h2 class="font-serif text-xl font-semibold">Examples</h2>
                        <span class="text-ink-faint text-[13px]"
                            >a field course at Marrow Mill; all data are invented</span
                        >
                        <span class="flex-1"></span>
                        <button class="quiet" onclick={putAway}>{away ? 'Show them' : 'Put them away'}</button>
                    </div>
                    {#if !away}
                        {#each groups as [group, found] (group)}
                            <h3 class="text-ink-soft mt-6 text-[13.5px]">{group}</h3>
                            {@render cards(found)}
                        {/each}
                    {/if}
                {/if}
            {/if}
        </div>
    </main>
</div>

{#snippet cards(found: FolioCard[])}
    <ul class="mt-5 grid grid-cols-[repeat(auto-fill,minmax(258px,1fr))] gap-x-7 gap-y-9">
        {#each found as folio (folio.id)}
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
{/snippet}

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

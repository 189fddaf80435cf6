<script lang="ts">
    import { api, type HandbookPage } from '../api/client'
    import { wordsOf } from '../lib/faults'
    import Mark from '../lib/Mark.svelte'
    import ThemeMenu from '../lib/ThemeMenu.svelte'
    import { follow, router } from '../lib/router.svelte'
    import Browse from './Browse.svelte'

    let { page }: { page: string } = $props()

    let pages = $state.raw<HandbookPage[]>([])
    let failure = $state('')
    api.handbook().then(
        (found) => (pages = found),
        (reason: unknown) => (failure = wordsOf(reason))
    )

    async function tryOut(example: string): Promise<void> {
        const made = await api.create('From the handbook', example)
        router.go(`/folio/${made.id}`)
    }

    $effect(() => {
        document.title = 'Handbook · Open Lemma'
    })
</script>

<div class="flex h-full flex-col">
    <header class="border-rule flex items-center gap-3 border-b px-4 py-[6px]">
        <a
            href="/"
            onclick={follow}
            class="text-ink hover:text-accent flex items-center gap-2 rounded-sm p-1"
            title="To the shelf"><Mark /><span class="sr-only">Shelf</span></a
        >
        <h1 class="font-serif text-[19px] font-semibold">Handbook</h1>
        <span class="flex-1"></span>
        <a class="button" href="/course" onclick={follow} title="Twelve lessons of five minutes">Course</a>
        <ThemeMenu />
    </header>
    {#if failure}
        <p class="text-mistake p-8" role="alert">{failure}</p>
    {:else}
        <main class="min-h-0 flex-1">
            <Browse {pages} chosen={page} onopen={(id) => router.go(`/handbook/${id}`)} ontry={(e) => void tryOut(e)} />
        </main>
    {/if}
</div>

<script lang="ts">
    import { api, type LessonShown } from '../api/client'
    import Desk from '../desk/Desk.svelte'
    import { wordsOf } from '../lib/faults'
    import Mark from '../lib/Mark.svelte'
    import { follow, router } from '../lib/router.svelte'
    import ThemeMenu from '../lib/ThemeMenu.svelte'
    import LessonPanel from './LessonPanel.svelte'
    import { progress } from './progress.svelte'

    let { lesson }: { lesson: string } = $props()

    let lessons = $state.raw<LessonShown[]>([])
    let failure = $state('')
    let folio = $state<number | undefined>(undefined)
    const shown = $derived(lessons.find((l) => l.id === lesson))
    const place = $derived(lessons.findIndex((l) => l.id === lesson))

    api.course().then(
        (found) => (lessons = found),
        (reason: unknown) => (failure = wordsOf(reason))
    )

    // Each lesson has a folio of its own, so that what was typed is still there another day.
    $effect(() => {
        const wanted = shown
        folio = undefined
        if (!wanted) return
        void deskOf(wanted, lessons.indexOf(wanted) + 1).then(
            (id) => wanted === shown && (folio = id),
            (reason: unknown) => (failure = wordsOf(reason))
        )
    })

    async function deskOf(wanted: LessonShown, number: number): Promise<number> {
        const kept = progress.folioOf(wanted.id)
        if (kept !== undefined) {
            const there = await api.folio(kept).catch(() => undefined)
            if (there) return kept
        }
        const made = await api.create(`Lesson ${number}: ${wanted.title}`, wanted.start)
        progress.keepFolio(wanted.id, made.id)
        return made.id
    }

    let marked = $state.raw<{ lesson: string; record: number } | undefined>(undefined)

    /** What the latest run has done of the tasks. */
    async function look(id: string, record: number): Promise<void> {
        if (marked?.lesson === id && marked.record === record) return
        marked = { lesson: id, record }
        const done = await api.tasksDone(id, record).catch(() => undefined)
        if (done) progress.mark(id, done)
    }

    $effect(() => {
        document.title = `${shown ? `${shown.title} · ` : ''}Course · Open Lemma`
    })
</script>

{#if failure}
    <p class="text-mistake p-8" role="alert">{failure}</p>
{:else if shown}
    <div class="flex h-full min-h-0">
        <aside class="border-rule bg-table flex w-[330px] shrink-0 flex-col overflow-auto border-r" aria-label="Lesson">
            <LessonPanel
                lesson={shown}
                number={place + 1}
                of={lessons.length}
                done={progress.done(shown.id)}
                next={lessons[place + 1]?.id}
            />
        </aside>
        <div class="min-w-0 flex-1">
            {#if folio !== undefined}
                {#key folio}<Desk {folio} narrow onrecord={(record) => void look(shown.id, record)} />{/key}
            {/if}
        </div>
    </div>
{:else}
    <div class="flex h-full flex-col">
        <header class="border-rule flex items-center gap-3 border-b px-4 py-[6px]">
            <a
                href="/"
                onclick={follow}
                class="text-ink hover:text-accent flex items-center gap-2 rounded-sm p-1"
                title="To the shelf"><Mark /><span class="sr-only">Shelf</span></a
            >
            <h1 class="font-serif text-[19px] font-semibold">Course</h1>
            <span class="flex-1"></span>
            <a class="button" href="/handbook" onclick={follow}>Handbook</a>
            <ThemeMenu />
        </header>
        <main class="min-h-0 flex-1 overflow-auto px-6 pt-8 pb-16">
            <div class="mx-auto max-w-[760px]">
                <p class="font-serif text-[18px]">
                    Twelve lessons of about five minutes, in the order in which the work is done. Each has a desk of its
                    own; what you type stays there.
                </p>
                <ol class="mt-6 grid grid-cols-2 gap-x-8 gap-y-1">
                    {#each lessons as l, i (l.id)}
                        {@const done = progress.done(l.id).filter(Boolean).length}
                        <li>
                            <a
                                class="hover:bg-table flex items-baseline gap-3 rounded-sm px-2 py-2"
                                href="/course/{l.id}"
                                onclick={follow}
                            >
                                <span class="text-ink-faint w-5 text-right font-serif text-[16px]">{i + 1}</span>
                                <span class="min-w-0 flex-1 font-serif text-[17px]">{l.title}</span>
                                <span class="text-ink-faint text-[12.5px]"
                                    >{done ? `${done} of ${l.tasks.length} done` : `${l.tasks.length} tasks`}</span
                                >
                            </a>
                        </li>
                    {/each}
                </ol>
                {#if lessons[0]}
                    <p class="mt-8">
                        <button
                            class="button main"
                            onclick={() => {
                                const open = lessons.find(
                                    (l) => !progress.done(l.id).every(Boolean) || !progress.done(l.id).length
                                )
                                router.go(`/course/${(open ?? lessons[0])?.id ?? ''}`)
                            }}>{lessons.some((l) => progress.done(l.id).some(Boolean)) ? 'Go on' : 'Begin'}</button
                        >
                    </p>
                {/if}
            </div>
        </main>
    </div>
{/if}

<script lang="ts">
    import type { LessonShown } from '../api/client'
    import { follow } from '../lib/router.svelte'

    interface Props {
        lesson: LessonShown
        number: number
        of: number
        done: boolean[]
        next: string | undefined
    }
    let { lesson, number, of, done, next }: Props = $props()

    let hinted = $state<string[]>([])
    const all = $derived(lesson.tasks.every((_, i) => done[i]))
    const named = (page: string) => page.replace(/^[a-z]+-/, '').replaceAll('-', ' ')
</script>

<article class="px-5 py-4">
    <p class="text-ink-faint text-[12.5px]">
        <a class="hover:text-accent underline" href="/course" onclick={follow}>Course</a> · lesson {number} of {of}
    </p>
    <h1 class="mt-1 font-serif text-[23px] leading-tight font-semibold">{lesson.title}</h1>
    {#each lesson.text as paragraph (paragraph)}
        <p class="mt-3 font-serif text-[15.5px] leading-[1.5]">{paragraph}</p>
    {/each}
    <h2 class="text-ink-faint mt-5 text-[12.5px]">Tasks</h2>
    <ol class="mt-1">
        {#each lesson.tasks as task, i (task.say)}
            {@const key = `${lesson.id} ${i}`}
            <li class="border-rule flex gap-3 border-t py-2" data-done={done[i] ?? false}>
                <svg viewBox="0 0 16 16" class="text-accent mt-[3px] h-4 w-4 shrink-0" aria-hidden="true">
                    <rect x="1.5" y="1.5" width="13" height="13" fill="none" stroke="currentColor" stroke-width="1.3" />
                    {#if done[i]}<path d="M4 8.5l3 3 5-7" fill="none" stroke="currentColor" stroke-width="1.8" />{/if}
                </svg>
                <div class="min-w-0 flex-1">
                    <p class="text-[14px]">{task.say}<span class="sr-only">{done[i] ? ' Done.' : ''}</span></p>
                    {#if hinted.includes(key)}
                        <p class="bg-raised border-rule mt-1 rounded-sm border px-2 py-1 font-mono text-[12.5px]">
                            {task.hint}
                        </p>
                    {:else if !done[i]}
                        <button class="quiet !px-0 text-[12.5px]" onclick={() => (hinted = [...hinted, key])}
                            >Hint</button
                        >
                    {/if}
                </div>
            </li>
        {/each}
    </ol>
    <p class="text-ink-soft mt-4 text-[13px]" role="status">
        {all ? 'All done.' : 'Type on the desk beside; tasks are ticked by what your script finds and draws.'}
    </p>
    <p class="mt-3 flex gap-2">
        {#if next}
            <a class="button {all ? 'main' : ''}" href="/course/{next}" onclick={follow}>Next lesson</a>
        {:else}
            <a class="button {all ? 'main' : ''}" href="/" onclick={follow}>To the shelf</a>
        {/if}
    </p>
    {#if lesson.pages.length}
        <p class="text-ink-soft mt-5 text-[13px]">
            In the handbook:
            {#each lesson.pages as page, i (page)}{i ? ', ' : ''}<a
                    class="text-accent underline"
                    href="/handbook/{page}"
                    onclick={follow}>{named(page)}</a
                >{/each}
        </p>
    {/if}
</article>

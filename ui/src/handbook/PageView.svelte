<script lang="ts">
    import { copied as onClipboard } from '../lib/clipboard'
    import { api, type ExampleShown, type HandbookPage } from '../api/client'
    import EvidenceMark from '../lib/EvidenceMark.svelte'
    import Maths from '../lib/Maths.svelte'

    interface Props {
        page: HandbookPage
        pages: HandbookPage[]
        onopen: (id: string) => void
        ontry?: ((example: string) => void) | undefined
        tryWords?: string
    }
    let { page, pages, onopen, ontry, tryWords = 'Try it in a new folio' }: Props = $props()

    const optionPage = (name: string) => pages.find((p) => p.kind === 'option' && p.name === name)
    const takers = $derived(
        page.kind === 'option' ? pages.filter((p) => p.options.includes(page.name) && p.kind !== 'option') : []
    )
    let copied = $state('')
    let given = $state.raw<ExampleShown[]>([])
    const near = $derived(page.see.map((id) => pages.find((p) => p.id === id)).filter((p) => p !== undefined))

    $effect(() => {
        const { id } = page
        given = []
        void api.shown(id).then((found) => id === page.id && (given = found))
    })

    async function copy(example: string): Promise<void> {
        if (!(await onClipboard(example))) return
        copied = example
        setTimeout(() => (copied = ''), 1500)
    }
</script>

<article>
    <p class="text-ink-faint text-[12.5px]">{page.kind}</p>
    <h2
        class="font-serif text-[24px] leading-tight font-semibold {page.kind === 'idea'
            ? 'first-letter:uppercase'
            : ''}"
    >
        {page.name}
    </h2>
    <p class="mt-1 font-serif text-[17px]">{page.help.charAt(0).toUpperCase() + page.help.slice(1)}.</p>
    {#if !page.available}
        <p class="bg-caution-wash border-caution mt-3 border-l-2 px-3 py-1">
            This version reads it, but cannot carry it out yet.
        </p>
    {/if}
    <h3>How it is written</h3>
    <pre>{page.usage}</pre>
    {#each page.more as paragraph (paragraph)}<p class="mt-3 font-serif text-[15.5px] leading-[1.5]">
            {paragraph}
        </p>{/each}
    {#if page.latex}<p class="mt-3 overflow-x-auto"><Maths tex={page.latex} display /></p>{/if}
    {#if page.domain && page.domain !== 'all real numbers'}<p class="text-ink-soft mt-2">
            Defined for {page.domain}.
        </p>{/if}
    {#if page.choices.length}
        <h3>Its values</h3>
        <p class="font-mono text-[13px]">{page.choices.join(', ')}</p>
    {/if}
    {#if page.examples.length}
        <h3>{page.examples.length > 1 ? 'Examples, from plain to rich' : 'Example'}</h3>
        {#each page.examples as example, i (example)}
            <div class="mb-4">
                <pre>{example}</pre>
                {#if given[i]}
                    {@const gave = given[i]}
                    <ul class="text-[13.5px]">
                        {#each gave.findings as finding (finding.number)}
                            <li class="mt-1 flex items-baseline gap-2">
                                <EvidenceMark evidence={finding.evidence} word={false} /><span
                                    class="min-w-0 wrap-anywhere">{finding.text}</span
                                >
                            </li>
                        {/each}
                    </ul>
                    {#if gave.figures.length}
                        <p class="mt-2 flex flex-wrap gap-3">
                            {#each gave.figures as figure (figure)}
                                <img
                                    class="border-rule w-[340px] max-w-full rounded-sm border bg-white"
                                    src="/handbook-shown/{figure}"
                                    alt="What the example draws"
                                    loading="lazy"
                                />
                            {/each}
                        </p>
                    {/if}
                {/if}
                <p class="mt-2 flex gap-2">
                    <button class="button !h-7" onclick={() => copy(example)}
                        >{copied === example ? 'Copied' : 'Copy'}</button
                    >
                    {#if ontry}<button class="button !h-7" onclick={() => ontry(example)}>{tryWords}</button>{/if}
                </p>
            </div>
        {/each}
    {/if}
    {#if page.slips.length}
        <h3>What people write, and what it is here</h3>
        <table class="w-full text-[13px]">
            <tbody>
                {#each page.slips as slip (slip.typed)}
                    <tr class="border-rule border-t align-baseline">
                        <td class="text-ink-faint py-1 pr-4 font-mono">{slip.typed}</td>
                        <td class="py-1 font-mono whitespace-pre-wrap">{slip.meant}</td>
                    </tr>
                {/each}
            </tbody>
        </table>
    {/if}
    {#if page.options.length}
        <h3>Options</h3>
        <ul>
            {#each page.options as name (name)}
                {@const about = optionPage(name)}
                <li class="mt-1">
                    <button class="quiet !px-0 font-mono text-[13px]" onclick={() => onopen(`option-${name}`)}
                        >{about?.usage ?? name}</button
                    >
                    <span class="text-ink-soft">&ensp;{about?.help ?? ''}</span>
                </li>
            {/each}
        </ul>
    {/if}
    {#if near.length}
        <h3>See also</h3>
        <p>
            {#each near as other (other.id)}<button
                    class="quiet !pl-0 font-mono text-[13px]"
                    title={other.help}
                    onclick={() => onopen(other.id)}>{other.name}</button
                >{/each}
        </p>
    {/if}
    {#if takers.length}
        <h3>Belongs to</h3>
        <p>
            {#each takers as taker (taker.id)}<button
                    class="quiet !pl-0 font-mono text-[13px]"
                    onclick={() => onopen(taker.id)}>{taker.name} of</button
                >{/each}
        </p>
    {/if}
</article>

<style>
    h3 {
        margin-top: 1.3rem;
        margin-bottom: 0.25rem;
        color: var(--ink-faint);
        font-size: 12.5px;
    }
    pre {
        overflow-x: auto;
        padding: 8px 12px;
        border: 1px solid var(--rule);
        border-radius: 3px;
        background: var(--raised);
        font-family: var(--font-mono);
        font-size: 12.5px;
        line-height: 1.6;
        white-space: pre-wrap;
    }
</style>

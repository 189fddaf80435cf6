<script lang="ts">
    import type { SeenName } from '../lib/record'
    import type { NameAtStep } from './walk.svelte'

    interface Props {
        names: (SeenName | NameAtStep)[] | undefined
        walking: boolean
        onopen: (name: SeenName) => void
    }
    let { names, walking, onopen }: Props = $props()

    function size(of: SeenName): string {
        const counted: Partial<Record<SeenName['kind'], string>> = { list: 'element', table: 'row', finding: 'value' }
        const word = counted[of.kind]
        return word ? `${of.size} ${word}${of.size === 1 ? '' : 's'}` : ''
    }
    function range(of: SeenName): string {
        if (of.low === undefined || of.high === undefined) return ''
        const said = (v: number) => String(Number(v.toPrecision(5))).replace('-', '−')
        return `${said(of.low)} to ${said(of.high)}`
    }
    const depth = (of: SeenName | NameAtStep) => ('depth' in of ? (of.depth ?? 0) : 0)
    const changed = (of: SeenName | NameAtStep) => 'changed' in of && of.changed
</script>

{#if !names}
    <p class="text-ink-faint px-4 py-3 font-serif text-[15px] italic">
        The script has not been run in this window yet.
    </p>
{:else if !names.length}
    <p class="text-ink-faint px-4 py-3 font-serif text-[15px] italic">
        {walking ? 'No name has a value yet.' : 'No names yet. A definition such as a = 2 gives one.'}
    </p>
{:else}
    <table class="w-full text-left text-[13px]">
        <thead class="text-ink-faint text-[12px]">
            <tr><th>name</th><th>value</th><th>kind</th><th>size</th><th>range</th><th>unit</th></tr>
        </thead>
        <tbody>
            {#each names as name (`${depth(name)} ${name.name}`)}
                <tr class="border-rule border-t" class:changed={changed(name)} data-name={name.name}>
                    <td class="font-mono whitespace-nowrap"
                        ><button class="quiet !px-0 font-mono" onclick={() => onopen(name)}>{name.name}</button
                        >{#if depth(name)}<span class="text-ink-faint font-sans text-[12px]"
                                >&ensp;in the call{depth(name) > 1 ? ` (${depth(name)})` : ''}</span
                            >{/if}</td
                    >
                    <td class="value font-mono" title={name.text}>{name.text}</td>
                    <td class="text-ink-soft">{name.kind}</td>
                    <td class="text-ink-soft whitespace-nowrap">{size(name)}</td>
                    <td class="text-ink-soft whitespace-nowrap">{range(name)}</td>
                    <td class="text-ink-soft whitespace-nowrap">{name.unit ?? ''}</td>
                </tr>
            {/each}
        </tbody>
    </table>
{/if}

<style>
    th,
    td {
        padding: 3px 14px 3px 0;
        font-weight: normal;
    }
    th:first-child,
    td:first-child {
        padding-left: 16px;
    }
    .value {
        max-width: 220px;
        overflow: hidden;
        text-overflow: ellipsis;
        white-space: nowrap;
        font-size: 12.5px;
    }
    .changed {
        background: var(--accent-wash);
    }
    .changed .value {
        font-weight: 600;
    }
</style>

<script lang="ts">
    import { Tabs } from 'bits-ui'
    import type { Finding, Fix, SeenName } from '../lib/record'
    import type { Desk } from './desk.svelte'
    import Findings from './Findings.svelte'
    import Messages from './Messages.svelte'
    import Names from './Names.svelte'
    import ValueSheet from './ValueSheet.svelte'

    interface Props {
        desk: Desk
        ongo: (line: number) => void
        onfix: (fix: Fix) => void
        onmark?: ((finding: Finding) => void) | undefined
    }
    let { desk, ongo, onfix, onmark }: Props = $props()

    let shown = $state('findings')
    let opened = $state.raw<SeenName | undefined>(undefined)
    const walking = $derived(desk.walk !== undefined)
    const names = $derived(desk.walk ? desk.walk.names : desk.names)
    const findings = $derived.by(() => {
        if (!desk.walk?.ready) return desk.findings
        return desk.findings.slice(0, desk.walk.step?.findings ?? 0)
    })

    // A walk is about what names stand for at each step.
    $effect(() => {
        if (walking) shown = 'names'
    })

    export function show(which: 'findings' | 'names' | 'messages'): void {
        shown = which
    }
</script>

<Tabs.Root bind:value={shown} class="flex h-full flex-col">
    <Tabs.List class="border-rule text-ink-soft flex h-[30px] shrink-0 items-stretch gap-1 border-b px-3 text-[12.5px]">
        <Tabs.Trigger value="findings" class="tab">Findings{findings.length ? ` ${findings.length}` : ''}</Tabs.Trigger>
        <Tabs.Trigger value="names" class="tab">{walking ? 'Names at this step' : 'Names'}</Tabs.Trigger>
        <Tabs.Trigger value="messages" class="tab"
            >Messages{desk.messages.length ? ` ${desk.messages.length}` : ''}</Tabs.Trigger
        >
    </Tabs.List>
    <div class="min-h-0 flex-1 overflow-auto">
        <Tabs.Content value="findings" class="h-full">
            <Findings
                {findings}
                chosen={desk.chosenFinding}
                {ongo}
                {onmark}
                onchoose={(n) => (desk.chosenFinding = desk.chosenFinding === n ? undefined : n)}
            />
        </Tabs.Content>
        <Tabs.Content value="names"><Names {names} {walking} onopen={(name) => (opened = name)} /></Tabs.Content>
        <Tabs.Content value="messages"><Messages messages={desk.messages} {ongo} {onfix} /></Tabs.Content>
    </div>
</Tabs.Root>
<ValueSheet
    folio={desk.id}
    script={desk.walk?.script ?? desk.script}
    name={opened}
    {walking}
    onclose={() => (opened = undefined)}
/>

<script lang="ts">
    import { Dialog } from 'bits-ui'
    import Sheet from '../lib/Sheet.svelte'
    import FileName from './FileName.svelte'

    interface Props {
        open: boolean
        ontake: (name: string, text: string) => void
        onclose: () => void
    }
    let { open, ontake, onclose }: Props = $props()

    const placeholder = 'h [m], Q [m^3/s]\n0.10, 0.021\n0.15, 0.044'
    let text = $state('')
    let name = $state('typed.csv')
</script>

<Sheet {open} {onclose}>
    <Dialog.Title class="font-serif text-[19px] font-semibold">Paste or type a table</Dialog.Title>
    <Dialog.Description class="text-ink-soft mt-1 text-[13px]">
        Cells copied from a sheet, or lines of your own: the first names the columns, with units in brackets.
    </Dialog.Description>
    <!-- svelte-ignore a11y_autofocus -->
    <textarea
        bind:value={text}
        class="border-rule bg-raised mt-3 h-[280px] w-full resize-none rounded-sm border p-3 font-mono text-[13px]"
        spellcheck="false"
        autofocus
        aria-label="The table"
        {placeholder}
    ></textarea>
    <footer class="mt-3 flex items-center gap-3">
        <FileName bind:name />
        <span class="flex-1"></span>
        <Dialog.Close class="button">Leave it</Dialog.Close>
        <button
            class="button main"
            disabled={!text.trim() || !name.trim()}
            onclick={() => {
                ontake(/\.\w+$/.test(name.trim()) ? name.trim() : `${name.trim()}.csv`, `${text.trimEnd()}\n`)
                text = ''
            }}>Look at it</button
        >
    </footer>
</Sheet>

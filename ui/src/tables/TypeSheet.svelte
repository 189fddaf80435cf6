<script lang="ts">
    import { Dialog } from 'bits-ui'

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

<Dialog.Root
    {open}
    onOpenChange={(shown) => {
        if (!shown) onclose()
    }}
>
    <Dialog.Portal>
        <Dialog.Overlay class="fixed inset-0 z-30 bg-black/25" />
        <Dialog.Content class="window">
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
                <label class="text-ink-soft flex items-center gap-2"
                    >kept as <input
                        class="border-rule bg-raised text-ink rounded-sm border px-2 py-[3px] font-mono text-[13px]"
                        bind:value={name}
                        aria-label="Name of the file"
                    /></label
                >
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
        </Dialog.Content>
    </Dialog.Portal>
</Dialog.Root>

<script lang="ts">
    import { Dialog } from 'bits-ui'
    import type { Snippet } from 'svelte'

    interface Props {
        open: boolean
        /** Classes beside those of every sheet: its size. */
        size?: string
        onclose: () => void
        children: Snippet
    }
    let { open, size = '', onclose, children }: Props = $props()
</script>

<!-- What lies above the page until it is closed: inside stand a Dialog.Title and a Dialog.Description. -->
<Dialog.Root
    {open}
    onOpenChange={(shown) => {
        if (!shown) onclose()
    }}
>
    <Dialog.Portal>
        <Dialog.Overlay class="fixed inset-0 z-30 bg-black/25" />
        <Dialog.Content class="window {size}">{@render children()}</Dialog.Content>
    </Dialog.Portal>
</Dialog.Root>

<script lang="ts">
    import { Dialog } from 'bits-ui'
    import Sheet from '../lib/Sheet.svelte'
    import type { HandbookPage } from '../api/client'
    import Browse from '../handbook/Browse.svelte'
    import { follow } from '../lib/router.svelte'

    interface Props {
        pages: HandbookPage[]
        page: string | undefined
        onopen: (page: string) => void
        onclose: () => void
        oninsert: (example: string) => void
    }
    let { pages, page, onopen, onclose, oninsert }: Props = $props()
</script>

<Sheet open={page !== undefined} size="!h-[78vh] !w-[860px] !p-0" {onclose}>
    <header class="border-rule flex items-center gap-3 border-b px-4 py-2">
        <Dialog.Title class="font-serif text-[17px] font-semibold">Handbook</Dialog.Title>
        <Dialog.Description class="sr-only">Pages for the words of the language</Dialog.Description>
        <span class="flex-1"></span>
        <a class="button !h-7" href="/course" onclick={follow}>Course</a>
        <Dialog.Close class="button !h-7">Close</Dialog.Close>
    </header>
    <div class="h-[calc(78vh-46px)]">
        <Browse
            {pages}
            chosen={page ?? ''}
            {onopen}
            ontry={oninsert}
            tryWords="Insert into the script"
            searching={page === ''}
        />
    </div>
</Sheet>

<script lang="ts">
    import { DropdownMenu } from 'bits-ui'
    import { figureAddress, type FolioCard } from '../api/client'
    import { follow } from '../lib/router.svelte'
    import { ago } from './ago'

    interface Props {
        folio: FolioCard
        renaming: boolean
        onrename: (title: string) => void
        onaskrename: () => void
        onduplicate: () => void
        onremove: () => void
    }
    let { folio, renaming, onrename, onaskrename, onduplicate, onremove }: Props = $props()

    function begin(input: HTMLInputElement) {
        input.focus()
        input.select()
    }

    function key(event: KeyboardEvent & { currentTarget: HTMLInputElement }): void {
        if (event.key === 'Enter') event.currentTarget.blur()
        if (event.key === 'Escape') {
            event.currentTarget.value = folio.title
            event.currentTarget.blur()
        }
    }
</script>

<li>
    <a
        href="/folio/{folio.id}"
        onclick={follow}
        class="sheet border-rule block overflow-hidden rounded-sm border bg-white"
        aria-label="Open {folio.title}"
    >
        {#if folio.thumbnail}
            <img src={figureAddress(folio.thumbnail.record_id, folio.thumbnail.figure, 'svg')} alt="" loading="lazy" />
        {:else}
            <span class="font-serif text-[15px] text-[#747985] italic">no figure yet</span>
        {/if}
    </a>
    <div class="mt-2 flex items-start gap-2">
        <div class="min-w-0 flex-1">
            {#if renaming}
                <input
                    {@attach begin}
                    class="border-accent bg-raised w-full rounded-sm border px-1 font-serif text-[17px]"
                    value={folio.title}
                    maxlength="200"
                    aria-label="Title"
                    onkeydown={key}
                    onblur={(e) => onrename(e.currentTarget.value)}
                />
            {:else}
                <a
                    href="/folio/{folio.id}"
                    onclick={follow}
                    class="block truncate font-serif text-[17px]"
                    title={folio.title}>{folio.title}</a
                >
            {/if}
            <p class="text-ink-faint text-[12.5px]">changed {ago(folio.changed_at)}</p>
        </div>
        <DropdownMenu.Root>
            <DropdownMenu.Trigger class="quiet text-[13px]" aria-label="More for {folio.title}"
                >More</DropdownMenu.Trigger
            >
            <DropdownMenu.Portal>
                <DropdownMenu.Content
                    class="menu"
                    sideOffset={4}
                    align="end"
                    onCloseAutoFocus={(e) => renaming && e.preventDefault()}
                >
                    <DropdownMenu.Item class="menu-item" onSelect={onaskrename}>Rename</DropdownMenu.Item>
                    <DropdownMenu.Item class="menu-item" onSelect={onduplicate}>Duplicate</DropdownMenu.Item>
                    <DropdownMenu.Item class="menu-item" onSelect={onremove}>Delete</DropdownMenu.Item>
                </DropdownMenu.Content>
            </DropdownMenu.Portal>
        </DropdownMenu.Root>
    </div>
</li>

<style>
    .sheet {
        display: flex;
        align-items: center;
        justify-content: center;
        aspect-ratio: 120 / 86;
        padding: 8px;
        transition:
            box-shadow 0.15s,
            border-color 0.15s;
    }
    .sheet:hover {
        border-color: var(--rule-strong);
        box-shadow: var(--shadow);
    }
    .sheet img {
        width: 100%;
        height: 100%;
        object-fit: contain;
    }
</style>

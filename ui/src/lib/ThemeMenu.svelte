<script lang="ts">
    import { DropdownMenu } from 'bits-ui'
    import { theme, type Theme } from './theme.svelte'

    const choices: { value: Theme; label: string }[] = [
        { value: 'system', label: 'As the system' },
        { value: 'light', label: 'Light' },
        { value: 'dark', label: 'Dark' }
    ]
</script>

<DropdownMenu.Root>
    <DropdownMenu.Trigger class="button">Light and dark</DropdownMenu.Trigger>
    <DropdownMenu.Portal>
        <DropdownMenu.Content class="menu" sideOffset={6} align="end">
            <DropdownMenu.RadioGroup value={theme.value} onValueChange={(v) => theme.set(v as Theme)}>
                {#each choices as choice (choice.value)}
                    <DropdownMenu.RadioItem class="menu-item" value={choice.value}>
                        {#snippet children({ checked })}
                            <span>{choice.label}</span><span class="text-accent">{checked ? 'chosen' : ''}</span>
                        {/snippet}
                    </DropdownMenu.RadioItem>
                {/each}
            </DropdownMenu.RadioGroup>
        </DropdownMenu.Content>
    </DropdownMenu.Portal>
</DropdownMenu.Root>

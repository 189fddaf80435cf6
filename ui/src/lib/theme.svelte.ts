export type Theme = 'system' | 'light' | 'dark'

const KEY = 'open-lemma-theme'

/** Light or dark: as the system says until the reader chooses. */
class ThemeChoice {
    value = $state<Theme>(kept())

    set(value: Theme): void {
        this.value = value
        localStorage.setItem(KEY, value)
        this.apply()
    }

    apply(): void {
        if (this.value === 'system') delete document.documentElement.dataset.theme
        else document.documentElement.dataset.theme = this.value
    }
}

function kept(): Theme {
    const found = localStorage.getItem(KEY)
    return found === 'light' || found === 'dark' ? found : 'system'
}

export const theme = new ThemeChoice()

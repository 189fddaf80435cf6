import js from '@eslint/js'
import svelte from 'eslint-plugin-svelte'
import globals from 'globals'
import ts from 'typescript-eslint'
import svelteConfig from './svelte.config.js'

export default ts.config(
    js.configs.recommended,
    ...ts.configs.strict,
    ...svelte.configs.recommended,
    { languageOptions: { globals: { ...globals.browser } } },
    {
        files: ['**/*.svelte', '**/*.svelte.ts'],
        languageOptions: { parserOptions: { extraFileExtensions: ['.svelte'], parser: ts.parser, svelteConfig } }
    },
    // Addresses of this application are made by its own small router.
    { rules: { 'svelte/no-navigation-without-resolve': 'off' } },
    { ignores: ['dist/', 'src/api/schema.d.ts'] }
)

import ts from 'typescript-eslint';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';

export default ts.config(
	...ts.configs.recommended,
	...svelte.configs.recommended,
	{
		languageOptions: { globals: { ...globals.browser, ...globals.node } }
	},
	{
		files: ['**/*.svelte', '**/*.svelte.ts'],
		languageOptions: { parserOptions: { parser: ts.parser } }
	},
	{
		rules: {
			// The pages live at the root of their own server: there is no base path to resolve.
			'svelte/no-navigation-without-resolve': 'off',
			// Maps that hold pictures and open requests are not drawn from; counters tell of changes.
			'svelte/prefer-svelte-reactivity': 'off'
		}
	},
	{ ignores: ['build/', '.svelte-kit/', 'src/lib/api/generated/schema.d.ts'] }
);

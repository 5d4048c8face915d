import ts from 'typescript-eslint';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';

// The folders of the page, each of which knows only those before it.
const FOLDERS = [
	'ui',
	'api',
	'testing',
	'saving',
	'recipe',
	'clips',
	'sound',
	'shell',
	'render',
	'book',
	'bench',
	'edit',
	'home'
];
// Screens do not know each other.
const APART = { edit: ['bench'], home: ['bench', 'edit'] };

const oneWay = FOLDERS.map((folder, place) => {
	const hidden = [...FOLDERS.slice(place + 1), ...(APART[folder] ?? [])];
	return {
		files: [`src/lib/${folder}/**`],
		rules: {
			'no-restricted-imports': [
				'error',
				{
					patterns: [
						{
							regex: `^(\\$lib|(\\.\\./)+)/?(${hidden.join('|') || '(?!)'})/`,
							message: `The folder ${folder} imports only what is named before it in eslint.config.js.`
						}
					]
				}
			]
		}
	};
});

export default ts.config(
	...ts.configs.recommendedTypeChecked,
	...svelte.configs.recommended,
	{
		languageOptions: {
			globals: { ...globals.browser, ...globals.node },
			parserOptions: { projectService: true, extraFileExtensions: ['.svelte'] }
		}
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
			'svelte/prefer-svelte-reactivity': 'off',
			// Handlers of events may be asynchronous: each takes care of its own errors.
			'@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: false }],
			// A name written into text is a string or a number, never an object.
			'@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true }]
		}
	},
	{
		// ESLint does not know the types of components' props; svelte-check checks them.
		files: ['**/*.svelte'],
		rules: Object.fromEntries(
			[
				'no-unnecessary-type-assertion',
				...['argument', 'assignment', 'call', 'member-access', 'return'].map(
					(what) => `no-unsafe-${what}`
				)
			].map((rule) => [`@typescript-eslint/${rule}`, 'off'])
		)
	},
	{
		// Stand-ins for servers are asynchronous as they are, and take any answer.
		files: ['**/*.test.ts'],
		rules: {
			'@typescript-eslint/require-await': 'off',
			'@typescript-eslint/no-unsafe-assignment': 'off',
			'@typescript-eslint/no-unsafe-argument': 'off',
			'@typescript-eslint/no-unsafe-return': 'off'
		}
	},
	{
		files: ['*.js', '*.ts'],
		...ts.configs.disableTypeChecked
	},
	...oneWay,
	{ ignores: ['build/', '.svelte-kit/', 'src/lib/api/generated/'] }
);

// The keyboard shortcuts of the bench: one table for the handler and the list behind "?".
import type { Bench } from './bench.svelte';
import { copySelected, copyTransition, paste } from './copying';
import type { Player } from './player.svelte';
import { nameOf } from './recipe';

export type Actions = {
	bench: Bench;
	player: Player;
	go: (cutId: string | null) => void;
	addFilter: () => void;
	removeFilter: () => void;
	showShortcuts: () => void;
	openBook: () => void;
};
export type KeyEntry = {
	shown: string;
	does: string;
	matches: (event: KeyboardEvent) => boolean;
	run: (actions: Actions, event: KeyboardEvent) => void;
};

const plain = (event: KeyboardEvent) => !event.ctrlKey && !event.metaKey;
const key =
	(...names: string[]) =>
	(event: KeyboardEvent) =>
		plain(event) && names.includes(event.key);
const control = (name: string, shift: boolean) => (event: KeyboardEvent) =>
	(event.ctrlKey || event.metaKey) && event.key.toLowerCase() === name && event.shiftKey === shift;

function resize({ bench }: Actions, event: KeyboardEvent, by: number) {
	bench.setWindow(bench.before + (event.altKey ? 0 : by), bench.after + (event.shiftKey ? 0 : by));
}

const SPEEDS = [1, 0.5, 0.25];

export const KEYS: KeyEntry[] = [
	{
		shown: 'Space',
		does: 'Play or stop the loop',
		matches: key(' '),
		run: ({ player }) => player.toggle()
	},
	{
		shown: '← →',
		does: 'Step one frame; five with Shift',
		matches: key('ArrowLeft', 'ArrowRight'),
		run: ({ bench, player }, event) => {
			player.stop();
			const by = (event.key === 'ArrowLeft' ? -1 : 1) * (event.shiftKey ? 5 : 1);
			bench.show(bench.shown + by);
		}
	},
	{
		shown: 'Home End',
		does: 'First and last frame of the window',
		matches: key('Home', 'End'),
		run: ({ bench }, event) => bench.show(event.key === 'Home' ? -bench.before : bench.after - 1)
	},
	{ shown: '0', does: 'Go to the cut', matches: key('0'), run: ({ bench }) => bench.show(0) },
	{
		shown: 'PageUp PageDown',
		does: 'Previous and next cut',
		matches: key('PageUp', 'PageDown'),
		run: ({ bench, go }, event) =>
			go((event.key === 'PageUp' ? bench.cut.previous_id : bench.cut.next_id) ?? null)
	},
	{
		shown: '− =',
		does: 'Shorter or longer window; Shift: outgoing side only, Alt: incoming side only',
		matches: (event) => plain(event) && ['Minus', 'Equal'].includes(event.code),
		run: (actions, event) => resize(actions, event, event.code === 'Minus' ? -1 : 1)
	},
	{
		shown: 'H',
		does: 'Show the original while held',
		matches: key('h', 'H'),
		run: ({ bench }, event) => event.repeat || bench.hold(true)
	},
	{
		shown: 'G',
		does: 'Split view: original and result',
		matches: key('g', 'G'),
		run: ({ bench }) => bench.setCompare(bench.compare === 'split' ? 'result' : 'split')
	},
	{
		shown: 'L',
		does: 'Playback speed: full, half, quarter',
		matches: key('l', 'L'),
		run: ({ bench, player }) =>
			player.setSpeed(SPEEDS[(SPEEDS.indexOf(bench.speed) + 1) % SPEEDS.length] ?? 1)
	},
	{
		shown: 'M',
		does: 'Sound on or off',
		matches: key('m', 'M'),
		run: ({ player }) => player.toggleSound()
	},
	{
		shown: 'V',
		does: 'Show the speed of the open curve',
		matches: key('v', 'V'),
		run: ({ bench }) => (bench.showSpeed = !bench.showSpeed)
	},
	{ shown: 'N', does: 'Add filter', matches: key('n', 'N'), run: ({ addFilter }) => addFilter() },
	{
		shown: '1 … 9',
		does: 'Select a filter',
		matches: (event) => plain(event) && /^[1-9]$/.test(event.key),
		run: ({ bench }, event) => {
			const filter = bench.recipe.filters[Number(event.key) - 1];
			if (filter) bench.select(filter.id);
		}
	},
	{
		shown: 'Enter',
		does: 'Edit the values of the selected filter',
		matches: key('Enter'),
		run: ({ bench }) =>
			document.querySelector<HTMLElement>(`[data-filter="${bench.selected}"] .right input`)?.focus()
	},
	{
		shown: 'Delete',
		does: 'Remove the selected filter',
		matches: key('Delete', 'Backspace'),
		run: ({ removeFilter }) => removeFilter()
	},
	{
		shown: 'E',
		does: 'Turn the selected filter on or off',
		matches: key('e', 'E'),
		run: ({ bench }) => {
			const filter = bench.recipe.filters.find((each) => each.id === bench.selected);
			if (!filter) return;
			bench.changeFilter(
				filter.id,
				`Turn ${filter.enabled ? 'off' : 'on'} ${nameOf(bench.catalogue, filter)}`,
				(old) => ({
					...old,
					enabled: !old.enabled
				})
			);
		}
	},
	{ shown: 'R', does: 'Recipe book', matches: key('r', 'R'), run: ({ openBook }) => openBook() },
	{
		shown: 'D',
		does: 'Flip horizontally; vertically with Shift',
		matches: key('d', 'D'),
		run: (_, event) =>
			document
				.querySelector<HTMLButtonElement>(
					`[data-flip="${event.shiftKey ? 'vertical' : 'horizontal'}"]`
				)
				?.click()
	},
	{
		shown: 'Ctrl C',
		does: 'Copy the selected filter; the whole transition with Shift',
		matches: (event) => control('c', event.shiftKey)(event),
		run: ({ bench }, event) => (event.shiftKey ? copyTransition(bench) : copySelected(bench))
	},
	{
		shown: 'Ctrl V',
		does: 'Paste on this cut',
		matches: control('v', false),
		run: ({ bench }) => paste(bench)
	},
	{
		shown: 'Ctrl Z',
		does: 'Undo',
		matches: control('z', false),
		run: ({ bench }) => void bench.step('undo')
	},
	{
		shown: 'Ctrl Shift Z',
		does: 'Redo',
		matches: control('z', true),
		run: ({ bench }) => void bench.step('redo')
	},
	{
		shown: '?',
		does: 'Show the shortcuts',
		matches: key('?'),
		run: ({ showShortcuts }) => showShortcuts()
	}
];

/** Whether the focused element uses the keyboard itself. */
export function isTyping(event: KeyboardEvent): boolean {
	const target = event.target as HTMLElement;
	if (target.closest('dialog[open], [role="dialog"]')) return true;
	if (target.matches('input, textarea, select, [contenteditable]')) return !event.ctrlKey;
	return target.matches('button, a, [role="switch"]') && [' ', 'Enter'].includes(event.key);
}

/** Take the focus off a button pressed by pointer, so that Space plays again. */
export function blurPressed(event: MouseEvent) {
	const button = (event.target as Element).closest('button');
	if (event.detail > 0 && button === document.activeElement) button?.blur();
}

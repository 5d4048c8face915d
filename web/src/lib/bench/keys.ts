// The keys of the bench: one table for the handler and for the list behind "?".
import type { Bench } from './bench.svelte';
import { copySelected, copyTransition, paste } from './copying';
import type { Player } from './player.svelte';

export type Actions = {
	bench: Bench;
	player: Player;
	go: (cutId: string | null) => void;
	addPass: () => void;
	removePass: () => void;
	showKeys: () => void;
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
		does: 'play the loop, or stop',
		matches: key(' '),
		run: ({ player }) => player.toggle()
	},
	{
		shown: '← →',
		does: 'one frame; with Shift five',
		matches: key('ArrowLeft', 'ArrowRight'),
		run: ({ bench, player }, event) => {
			player.stop();
			const by = (event.key === 'ArrowLeft' ? -1 : 1) * (event.shiftKey ? 5 : 1);
			bench.show(bench.shown + by);
		}
	},
	{
		shown: 'Home End',
		does: 'first and last frame of the window',
		matches: key('Home', 'End'),
		run: ({ bench }, event) => bench.show(event.key === 'Home' ? -bench.before : bench.after - 1)
	},
	{ shown: '0', does: 'the cut', matches: key('0'), run: ({ bench }) => bench.show(0) },
	{
		shown: 'PageUp PageDown',
		does: 'previous and next cut',
		matches: key('PageUp', 'PageDown'),
		run: ({ bench, go }, event) =>
			go((event.key === 'PageUp' ? bench.cut.previous_id : bench.cut.next_id) ?? null)
	},
	{
		shown: '− =',
		does: 'window shorter, longer; with Shift outgoing only, with Alt incoming only',
		matches: (event) => plain(event) && ['Minus', 'Equal'].includes(event.code),
		run: (actions, event) => resize(actions, event, event.code === 'Minus' ? -1 : 1)
	},
	{
		shown: 'H',
		does: 'hold: the frame untreated',
		matches: key('h', 'H'),
		run: ({ bench }, event) => event.repeat || bench.hold(true)
	},
	{
		shown: 'G',
		does: 'split: treated and untreated side by side',
		matches: key('g', 'G'),
		run: ({ bench }) => bench.setCompare(bench.compare === 'split' ? 'rendered' : 'split')
	},
	{
		shown: 'L',
		does: 'speed: full, half, quarter',
		matches: key('l', 'L'),
		run: ({ bench, player }) =>
			player.setSpeed(SPEEDS[(SPEEDS.indexOf(bench.speed) + 1) % SPEEDS.length] ?? 1)
	},
	{
		shown: 'M',
		does: 'sound of the loop on or off',
		matches: key('m', 'M'),
		run: ({ player }) => player.toggleSound()
	},
	{
		shown: 'V',
		does: 'how fast the open curve moves, dashed',
		matches: key('v', 'V'),
		run: ({ bench }) => (bench.showSpeed = !bench.showSpeed)
	},
	{ shown: 'N', does: 'new pass', matches: key('n', 'N'), run: ({ addPass }) => addPass() },
	{
		shown: '1 … 9',
		does: 'select a pass',
		matches: (event) => plain(event) && /^[1-9]$/.test(event.key),
		run: ({ bench }, event) => {
			const pass = bench.recipe.passes[Number(event.key) - 1];
			if (pass) bench.select(pass.id);
		}
	},
	{
		shown: 'Enter',
		does: 'to the values of the selected pass',
		matches: key('Enter'),
		run: ({ bench }) =>
			document.querySelector<HTMLElement>(`[data-pass="${bench.selected}"] .right input`)?.focus()
	},
	{
		shown: 'Delete',
		does: 'remove the selected pass',
		matches: key('Delete', 'Backspace'),
		run: ({ removePass }) => removePass()
	},
	{
		shown: 'E',
		does: 'selected pass on or off',
		matches: key('e', 'E'),
		run: ({ bench }) => {
			const pass = bench.recipe.passes.find((each) => each.id === bench.selected);
			if (!pass) return;
			bench.changePass(pass.id, `${pass.kind} ${pass.enabled ? 'off' : 'on'}`, (old) => ({
				...old,
				enabled: !old.enabled
			}));
		}
	},
	{ shown: 'R', does: 'recipe book', matches: key('r', 'R'), run: ({ openBook }) => openBook() },
	{
		shown: 'D',
		does: 'flip left and right; with Shift up and down',
		matches: key('d', 'D'),
		run: (_, event) =>
			document
				.querySelector<HTMLButtonElement>(
					`[data-flip="${event.shiftKey ? 'up_down' : 'left_right'}"]`
				)
				?.click()
	},
	{
		shown: 'Ctrl C',
		does: 'copy the selected pass; with Shift the whole transition',
		matches: (event) => control('c', event.shiftKey)(event),
		run: ({ bench }, event) => (event.shiftKey ? copyTransition(bench) : copySelected(bench))
	},
	{
		shown: 'Ctrl V',
		does: 'paste it on this cut',
		matches: control('v', false),
		run: ({ bench }) => paste(bench)
	},
	{
		shown: 'Ctrl Z',
		does: 'undo',
		matches: control('z', false),
		run: ({ bench }) => void bench.step('undo')
	},
	{
		shown: 'Ctrl Shift Z',
		does: 'redo',
		matches: control('z', true),
		run: ({ bench }) => void bench.step('redo')
	},
	{ shown: '?', does: 'this list', matches: key('?'), run: ({ showKeys }) => showKeys() }
];

/** Whether the keyboard belongs to what has the focus, and not to the bench. */
export function isTyping(event: KeyboardEvent): boolean {
	const target = event.target as HTMLElement;
	if (target.closest('dialog[open], [role="dialog"]')) return true;
	if (target.matches('input, textarea, select, [contenteditable]')) return !event.ctrlKey;
	return target.matches('button, a, [role="switch"]') && [' ', 'Enter'].includes(event.key);
}

/** A button pressed by the pointer lets the keys go again, so that Space plays; by key it keeps them. */
export function letGo(event: MouseEvent) {
	const button = (event.target as Element).closest('button');
	if (event.detail > 0 && button === document.activeElement) button?.blur();
}

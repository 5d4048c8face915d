// What can be done on the bench: one table for buttons, keys and the list of shortcuts.
import { createKeybindingsHandler } from 'tinykeys';
import { nameOf } from '$lib/recipe/recipe';
import type { Bench } from './bench.svelte';
import { copySelected, copyTransition, paste } from './copying';
import { moveFilter, removeFilter } from './filterList';
import { isTyping } from '$lib/ui/focus';
import { stepHistory } from './cutSteps';

/** What the screen itself does. */
export type Screen = {
	go: (cutId: string | null) => void;
	addFilter: () => void;
	openBook: () => void;
	showShortcuts: () => void;
};
export type Action = {
	/** Key bindings as `tinykeys` reads them. */
	keys: string[];
	/** The keys as they are shown. */
	shown: string;
	does: string;
	/** What it does and its key, for a button. */
	tip: string;
	run: (event?: KeyboardEvent) => void;
};

function action(shown: string, keys: string[], does: string, run: Action['run']): Action {
	return { keys, shown, does, tip: `${does} (${shown})`, run };
}

export type Actions = ReturnType<typeof benchActions>;

export function benchActions(bench: Bench, screen: Screen) {
	const { transition, view, player, dials } = bench;
	const chosen = () => transition.recipe.filters.find((each) => each.id === view.selected);
	const step = (by: number) => {
		player.stop();
		view.show(view.shown + by);
	};
	const resize = (before: number, after: number) =>
		transition.setWindow(transition.before + before, transition.after + after);
	return {
		play: action('Space', ['Space'], 'Play or stop the loop', () => player.toggle()),
		playBack: action('J', ['j'], 'Play backward; again: faster', () => player.shuttle(-1)),
		stop: action('K', ['k'], 'Stop', () => player.stop()),
		playForward: action('L', ['l'], 'Play forward; again: faster', () => player.shuttle(1)),
		back: action('←', ['ArrowLeft'], 'One frame back', () => step(-1)),
		forward: action('→', ['ArrowRight'], 'One frame forward', () => step(1)),
		backFive: action('Shift ←', ['Shift+ArrowLeft'], 'Five frames back', () => step(-5)),
		forwardFive: action('Shift →', ['Shift+ArrowRight'], 'Five frames forward', () => step(5)),
		start: action('Home', ['Home'], 'First frame of the window', () =>
			view.show(-transition.before)
		),
		end: action('End', ['End'], 'Last frame of the window', () => view.show(transition.after - 1)),
		cut: action('0', ['0'], 'Go to the cut', () => view.show(0)),
		previousCut: action('PageUp', ['PageUp'], 'Previous cut', () =>
			screen.go(transition.cut.previous_id)
		),
		nextCut: action('PageDown', ['PageDown'], 'Next cut', () => screen.go(transition.cut.next_id)),
		shorter: action('−', ['Minus'], 'Shorter window', () => resize(-1, -1)),
		longer: action('=', ['Equal'], 'Longer window', () => resize(1, 1)),
		shorterOutgoing: action('Shift −', ['Shift+Minus'], 'Shorter outgoing side', () =>
			resize(-1, 0)
		),
		longerOutgoing: action('Shift =', ['Shift+Equal'], 'Longer outgoing side', () => resize(1, 0)),
		shorterIncoming: action('Alt −', ['Alt+Minus'], 'Shorter incoming side', () => resize(0, -1)),
		longerIncoming: action('Alt =', ['Alt+Equal'], 'Longer incoming side', () => resize(0, 1)),
		hold: action('H', ['h'], 'Show the original while held', (event) => {
			if (!event?.repeat) view.hold(true);
		}),
		split: action('G', ['g'], 'Split view: original and result', () =>
			view.setCompare(view.compare === 'split' ? 'result' : 'split')
		),
		sound: action('M', ['m'], 'Sound on or off', () => player.toggleSound()),
		curveSpeed: action('V', ['v'], 'Show the speed of the open curve', () => {
			view.showSpeed = !view.showSpeed;
		}),
		large: action('F', ['f'], 'Picture on the full screen', () => view.setLarge(!view.large)),
		addFilter: action('N', ['n'], 'Add filter', screen.addFilter),
		select: action(
			'1 … 9',
			Array.from({ length: 9 }, (_, n) => String(n + 1)),
			'Select a filter',
			(event) => {
				const filter = transition.recipe.filters[Number(event?.key) - 1];
				if (filter) view.select(filter.id);
			}
		),
		edit: action('Enter', ['Enter'], 'Edit the values of the selected filter', () =>
			document.querySelector<HTMLElement>(`[data-filter="${view.selected}"] .right input`)?.focus()
		),
		remove: action('Delete', ['Delete', 'Backspace'], 'Remove the selected filter', () => {
			const filter = chosen();
			if (filter) removeFilter(bench, filter);
		}),
		earlier: action('Ctrl ↑', ['$mod+ArrowUp'], 'Move the selected filter up', () => {
			const filter = chosen();
			if (filter) moveFilter(bench, filter, -1);
		}),
		later: action('Ctrl ↓', ['$mod+ArrowDown'], 'Move the selected filter down', () => {
			const filter = chosen();
			if (filter) moveFilter(bench, filter, 1);
		}),
		toggle: action('E', ['e'], 'Turn the selected filter on or off', () => {
			const filter = chosen();
			if (!filter) return;
			const label = `Turn ${filter.enabled ? 'off' : 'on'} ${nameOf(bench.catalogue, filter)}`;
			transition.changeFilter(filter.id, label, (old) => ({ ...old, enabled: !old.enabled }));
		}),
		book: action('R', ['r'], 'Recipe book', screen.openBook),
		flip: action('D', ['d'], 'Flip horizontally', () => void dials.flip('horizontal')),
		flipVertically: action(
			'Shift D',
			['Shift+d'],
			'Flip vertically',
			() => void dials.flip('vertical')
		),
		turn: action('T', ['t'], 'Turn 90° counter-clockwise', () => void dials.turn(90)),
		turnBack: action('Shift T', ['Shift+t'], 'Turn 90° clockwise', () => void dials.turn(270)),
		copy: action('Ctrl C', ['$mod+c'], 'Copy the selected filter', () => copySelected(bench)),
		copyTransition: action('Ctrl Shift C', ['$mod+Shift+c'], 'Copy transition', () =>
			copyTransition(bench)
		),
		paste: action('Ctrl V', ['$mod+v'], 'Paste on this cut', () => paste(bench)),
		undo: action('Ctrl Z', ['$mod+z'], 'Undo', () => void stepHistory(transition, 'undo')),
		redo: action(
			'Ctrl Shift Z',
			['$mod+Shift+z'],
			'Redo',
			() => void stepHistory(transition, 'redo')
		),
		shortcuts: action('?', ['Shift+?', '?'], 'Show the shortcuts', screen.showShortcuts)
	} satisfies Record<string, Action>;
}

/** Whether a binding is one character without a modifier but Shift (WCAG 2.1.4). */
function isCharacter(binding: string): boolean {
	const key = binding.replace(/^Shift\+/, '');
	return key.length === 1 || key === 'Minus' || key === 'Equal';
}

/** Runs the action of a pressed key; keys of one character only where `characters` allows them. */
export function keyHandler(actions: Actions, characters: () => boolean): (event: Event) => void {
	const bindings: Record<string, (event: KeyboardEvent) => void> = {};
	for (const { keys, run } of Object.values<Action>(actions))
		for (const binding of keys)
			bindings[binding] = (event) => {
				if (isCharacter(binding) && !characters()) return;
				event.preventDefault();
				run(event);
			};
	const handle = createKeybindingsHandler(bindings);
	return (event) => {
		if (!isTyping(event as KeyboardEvent)) handle(event);
	};
}

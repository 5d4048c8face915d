// Copy and paste on the bench.
import type { Catalogue } from '$lib/api/client';
import { notices } from '$lib/ui/notices.svelte';
import type { Bench } from './bench.svelte';
import { clipboard, heldName } from './clipboard.svelte';
import {
	freeId,
	kindOf,
	movesOf,
	withMoves,
	type Envelope,
	type Follow,
	type Pass
} from './recipe';

/** Copy the selected pass; with the mix selected, the whole transition. */
export function copySelected(bench: Bench) {
	const pass = bench.recipe.passes.find((each) => each.id === bench.selected);
	const kind = pass && kindOf(bench.catalogue, pass);
	if (!pass || !kind) {
		copyTransition(bench);
		return;
	}
	clipboard.put({ kind: 'pass', title: kind.title, pass });
	notices.tell(`${kind.title} is copied. Ctrl V puts it on this cut or another.`);
}

/** Copy the window, the mix and every pass. */
export function copyTransition(bench: Bench) {
	const { before, after, recipe } = bench;
	clipboard.put({ kind: 'transition', before, after, recipe });
	notices.tell(`“${recipe.name}” is copied. Ctrl V puts it on another cut.`);
}

/** Put what was copied on this cut. */
export function paste(bench: Bench) {
	const { held } = clipboard;
	if (!held) {
		notices.tell('Nothing is copied yet: Ctrl C copies the selected pass.');
	} else if (held.kind === 'pass') {
		pastePass(bench, held.pass, held.title);
	} else if (held.kind === 'transition') {
		bench.setWindow(held.before, held.after);
		bench.change(`paste ${heldName(held)}`, () => held.recipe);
		bench.select(held.recipe.passes[0]?.id ?? 'mix');
	} else {
		notices.tell('A curve is copied: paste it with the button beside the curve of a lane.');
	}
}

function pastePass(bench: Bench, copied: Pass, title: string) {
	const { passes } = bench.recipe;
	const id = freeId(
		copied.id.replace(/-\d+$/, ''),
		passes.map((each) => each.id)
	);
	const here = passes.map((each) => each.id);
	const pass = withoutStrangers(bench.catalogue, { ...copied, id }, here);
	const place = passes.findIndex((each) => each.id === bench.selected);
	bench.change(`paste ${title.toLowerCase()}`, (recipe) => ({
		...recipe,
		passes: recipe.passes.toSpliced(place < 0 ? passes.length : place + 1, 0, pass)
	}));
	bench.select(id);
}

/** What follows a pass that is not `here` rises and falls by itself instead. */
export function withoutStrangers(catalogue: Catalogue, pass: Pass, here: string[]): Pass {
	const made = { ...pass };
	for (const parameter of kindOf(catalogue, pass)?.parameters ?? []) {
		const envelope = pass[parameter.name] as Envelope;
		if (movesOf(envelope) === 'follow' && !here.includes((envelope as Follow).pass))
			made[parameter.name] = withMoves(envelope, 'swell', parameter);
	}
	return made;
}

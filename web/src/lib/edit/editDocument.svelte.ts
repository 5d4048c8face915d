// An edit as it is arranged: changes are shown at once, saved in order, undone and redone.
import {
	api,
	request,
	Refusal,
	type BookRecipe,
	type Cut,
	type CutSummary,
	type Edit,
	type Music,
	type Placed
} from '$lib/api/client';
import type { Saver } from '$lib/saving/saver.svelte';
import { counted, rateNumber } from '$lib/ui/numbers';
import { toast } from '$lib/ui/toast.svelte';
import { toNearestBeat, type Beats } from './beats';
import {
	placedFacts,
	trimOf,
	withFacts,
	withMovedCut,
	withPlaced,
	withWindow,
	type EditChange,
	type PlacedChange
} from './editChanges';
import { PendingChanges, type Seen } from './pendingChanges.svelte';
import { heldShift, roomOf, type Shifted } from './room';

/** What every second cut gets: the recipe as it is, flipped, or turned by degrees counter-clockwise. */
export type Alternate = '' | 'horizontal' | 'vertical' | '90' | '180' | '270';

function alternating(alternate: Alternate) {
	if (alternate === 'horizontal' || alternate === 'vertical') return { flip_alternate: alternate };
	return { turn_alternate: alternate ? (Number(alternate) as 90 | 180 | 270) : null };
}

export class EditDocument {
	readonly #changes: PendingChanges;
	#operations = 0;
	#chosen = $state.raw<string[]>([]);

	constructor(edit: Edit) {
		this.#changes = new PendingChanges(edit, () => this.#newest());
	}

	/** Ids of the selected cuts. */
	readonly chosen: string[] = $derived.by(() => {
		const here = new Set(this.edit.cuts.map((cut) => cut.id));
		return this.#chosen.filter((id) => here.has(id));
	});

	/** The edit with the changes that are not saved yet. */
	get edit(): Edit {
		return this.#changes.edit;
	}

	get saver(): Saver {
		return this.#changes.saver;
	}

	/** The edit as the server knows it. */
	get #base(): Edit {
		return this.#changes.base;
	}

	get rate(): number {
		return rateNumber(this.edit.rate);
	}

	/** The frame of the edit at which each clip begins. */
	readonly starts: number[] = $derived.by(() => {
		let at = 0;
		return this.edit.placed.map((each) => {
			at += each.edit_frames;
			return at - each.edit_frames;
		});
	});

	get beats(): Beats | null {
		const { beats_per_minute, beat_offset_s, beat_times_s } = this.edit;
		return beats_per_minute
			? {
					perMinute: beats_per_minute,
					offsetS: beat_offset_s,
					rate: this.rate,
					timesS: beat_times_s
				}
			: null;
	}

	change(body: EditChange) {
		const facts = Object.keys(body) as (keyof EditChange)[];
		this.#changes.put({
			key: `edit ${facts.join()}`,
			name: 'The edit',
			show: (edit) => withFacts(edit, body),
			ask: (query, options) =>
				request(api.PATCH('/api/edits/{edit_id}', { params: this.#path(query), body, ...options })),
			about: (edit) => facts.map((fact) => edit[fact])
		});
	}

	changePlaced(placed: Placed, change: PlacedChange) {
		const key = `placed ${placed.id}`;
		const body = { ...this.#changes.waiting(key)?.body, ...change };
		this.#changes.put({
			key,
			body,
			name: placed.name,
			show: (edit) => withPlaced(edit, placed.id, body),
			ask: (query, options) =>
				request(
					api.PATCH('/api/edits/{edit_id}/placed/{placed_id}', {
						params: this.#placedPath(placed.id, query),
						body,
						...options
					})
				),
			about: (edit) => placedFacts(edit, placed.id)
		});
	}

	/** Set the music, or move it or change its level. */
	setMusic(music: Music) {
		const { clip, offset_s, gain_db } = music;
		this.#changes.put({
			key: 'music',
			name: 'The music',
			show: (edit) => ({ ...edit, music }),
			ask: (query, options) =>
				request(
					api.PUT('/api/edits/{edit_id}/music', {
						params: this.#path(query),
						body: { clip: clip.id, offset_s, gain_db },
						...options
					})
				),
			about: (edit) => edit.music
		});
	}

	removeMusic() {
		this.#operate('The music', null, (query) =>
			request(api.DELETE('/api/edits/{edit_id}/music', { params: this.#path(query) }))
		);
	}

	split(placed: Placed, at_frame: number) {
		this.#operate(placed.name, placed.id, (query) =>
			request(
				api.POST('/api/edits/{edit_id}/placed/{placed_id}/split', {
					params: this.#placedPath(placed.id, query),
					body: { at_frame }
				})
			)
		);
	}

	remove(placed: Placed) {
		this.#operate(placed.name, placed.id, (query) =>
			request(
				api.DELETE('/api/edits/{edit_id}/placed/{placed_id}', {
					params: this.#placedPath(placed.id, query)
				})
			)
		);
	}

	add(clip: string) {
		this.#operate('The clip', null, (query) =>
			request(api.POST('/api/edits/{edit_id}/clips', { params: this.#path(query), body: { clip } }))
		);
	}

	/** Move a cut or an end of its window by frames, as far as there is room. */
	shift(cutId: string, what: Shifted, by: number) {
		const n = this.edit.cuts.findIndex((each) => each.id === cutId);
		const cut = this.edit.cuts[n];
		const held = cut ? heldShift(roomOf(this.edit, n), cut, what, by) : 0;
		if (!cut || !held) return;
		if (what === 'seam') this.#moveCut(n, cut, held);
		else if (what === 'before') this.#setWindow(n, cut, cut.before - held, cut.after);
		else this.#setWindow(n, cut, cut.before, cut.after + held);
	}

	/** Move every selected cut by frames, each as far as there is room. */
	shiftChosen(by: number) {
		for (const id of this.chosen) this.shift(id, 'seam', by);
	}

	#moveCut(n: number, cut: CutSummary, more: number) {
		const key = `move ${cut.id}`;
		const by = (this.#changes.waiting(key)?.by ?? 0) + more;
		this.#changes.put({
			key,
			by,
			name: `Cut ${n + 1}`,
			show: (edit) => withMovedCut(edit, cut.id, by),
			ask: async (query) => (await this.#askMoves([{ cut: cut.id, by }], query)).edit,
			about: (edit) => [edit.placed[n], edit.placed[n + 1]].map((each) => each && trimOf(each))
		});
	}

	#setWindow(n: number, cut: CutSummary, before: number, after: number) {
		this.#changes.put({
			key: `window ${cut.id}`,
			name: `Cut ${n + 1}`,
			show: (edit) => withWindow(edit, cut.id, before, after),
			ask: (query, options) =>
				request(
					api.PUT('/api/edits/{edit_id}/cuts/{cut_id}/window', {
						params: { path: { edit_id: this.#base.id, cut_id: cut.id }, query },
						body: { before, after },
						...options
					})
				),
			about: (edit) => edit.cuts.find((each) => each.id === cut.id)?.version
		});
	}

	undo() {
		return this.#step('/api/edits/{edit_id}/undo');
	}

	redo() {
		return this.#step('/api/edits/{edit_id}/redo');
	}

	toggle(cutId: string) {
		const { chosen } = this;
		this.#chosen = chosen.includes(cutId)
			? chosen.filter((id) => id !== cutId)
			: [...chosen, cutId];
	}

	toggleAll() {
		const { cuts } = this.edit;
		this.#chosen = this.chosen.length === cuts.length ? [] : cuts.map((cut) => cut.id);
	}

	/** How many frames each of the chosen cuts (or of all) lies from its nearest beat. */
	readonly offBeat: { cut: CutSummary; by: number }[] = $derived.by(() => {
		const { beats, chosen } = this;
		if (!beats) return [];
		return this.edit.cuts
			.map((cut, n) => ({ cut, by: toNearestBeat(beats, this.starts[n + 1] ?? 0) }))
			.filter(({ cut, by }) => by && (!chosen.length || chosen.includes(cut.id)));
	});

	/** Move cuts to their nearest beats, in one step of the history. */
	async snapToBeats() {
		await this.#saved(async () => {
			const moves = this.offBeat.map(({ cut, by }) => ({ cut: cut.id, by }));
			const { edit, stayed } = await this.#askMoves(moves, { version: this.#base.version });
			this.#take(edit);
			const moved = counted(moves.length - stayed.length, 'cut');
			toast.info([`Moved ${moved} to the nearest beat.`, ...stayed].join(' '));
		});
	}

	/** Trim the clips so that cuts lie on every nth beat, in one step of the history. */
	async cutEvery(every: number) {
		await this.#saved(async () => {
			const params = this.#path({ version: this.#base.version });
			const asked = api.POST('/api/edits/{edit_id}/cuts/on-beats', { params, body: { every } });
			const { edit, stayed } = await request(asked);
			this.#take(edit);
			toast.info([`Cut every ${counted(every, 'beat')}.`, ...stayed].join(' '));
		});
	}

	/** Apply a recipe to the chosen cuts, in one step that can be undone. */
	apply(entry: BookRecipe, alternate: Alternate) {
		// The server validates the recipe; its type there is a union of every filter.
		const recipe = { ...entry.recipe, name: entry.name } as never;
		const window = { before: entry.before, after: entry.after, rate: this.edit.rate };
		return this.#apply(entry.name, recipe, window, alternate);
	}

	/** Copy the transition of a cut, with its window, to the chosen cuts. */
	async copyFrom(cut: CutSummary) {
		const asked = api.GET('/api/cuts/{cut_id}', { params: { path: { cut_id: cut.id } } });
		try {
			const { before, after, recipe } = await request<Cut>(asked);
			await this.#apply(cutName(cut), recipe as never, { before, after, rate: this.edit.rate }, '');
		} catch (error) {
			toast.error(error);
		}
	}

	async #apply(
		name: string,
		recipe: never,
		window: { before: number; after: number; rate: string },
		alternate: Alternate
	) {
		await this.#saved(async () => {
			const cuts = this.#base.cuts
				.filter((cut) => this.chosen.includes(cut.id))
				.map((cut) => ({ cut: cut.id, version: cut.version }));
			const params = this.#path({ version: this.#base.version });
			const body = { cuts, recipe, window, ...alternating(alternate) };
			this.#take(await request(api.POST('/api/edits/{edit_id}/apply', { params, body })));
			const label = this.#base.undo_label;
			toast.info(`Applied “${name}” to ${counted(cuts.length, 'cut')}`, {
				label: 'Undo',
				run: () => {
					if (this.#base.undo_label === label) void this.undo();
					else toast.info('The edit was changed since. Undo steps back through its history.');
				}
			});
		});
	}

	async #step(path: '/api/edits/{edit_id}/undo' | '/api/edits/{edit_id}/redo') {
		await this.#saved(async () => {
			const params = this.#path({ version: this.#base.version });
			this.#take(await request(api.POST(path, { params })));
		});
	}

	/** Do something once everything is saved; where the edit was changed elsewhere, show that. */
	async #saved(work: () => Promise<void>) {
		try {
			const done = await this.saver.afterSaving(async () => {
				await work();
				return true;
			});
			if (!done) toast.error(`Not done: there are unsaved changes. ${this.saver.problem}`);
		} catch (error) {
			toast.error(error);
			if (error instanceof Refusal && error.status === 409) await this.#reload();
		}
	}

	async #reload() {
		try {
			this.#take(await this.#newest());
		} catch (error) {
			toast.error(error);
		}
	}

	/** Take what the checks of cuts found that had not run when the edit was read. */
	async readChecks(): Promise<boolean> {
		const asked = api.GET('/api/edits/{edit_id}/checks', {
			params: { path: { edit_id: this.#base.id } }
		});
		const found = new Map((await request(asked)).map((each) => [each.cut, each]));
		const cuts = this.#base.cuts.map((cut) => {
			const { worst = null, problem = null } = found.get(cut.id) ?? {};
			return cut.worst || !worst ? cut : { ...cut, worst, problem };
		});
		this.#changes.base = { ...this.#base, cuts };
		return cuts.every((cut) => cut.worst);
	}

	#newest(): Promise<Edit> {
		const path = { edit_id: this.#base.id };
		return request(api.GET('/api/edits/{edit_id}', { params: { path } }));
	}

	#askMoves(moves: { cut: string; by: number }[], query: Seen) {
		const params = this.#path(query);
		return request(api.POST('/api/edits/{edit_id}/cuts/move', { params, body: { moves } }));
	}

	#path(query: Seen) {
		return { path: { edit_id: this.#base.id }, query };
	}

	#placedPath(placed_id: string, query: Seen) {
		return { path: { edit_id: this.#base.id, placed_id }, query };
	}

	#take(edit: Edit) {
		this.#changes.base = edit;
	}

	/** A change that cannot be shown before the server has answered. */
	#operate(name: string, placedId: string | null, ask: (seen: Seen) => Promise<Edit>) {
		this.#operations += 1;
		this.#changes.put({
			key: `operation ${this.#operations}`,
			name,
			show: (edit) => edit,
			ask,
			about: (edit) => (placedId ? placedFacts(edit, placedId) : null)
		});
	}
}

/** The name of a cut: that of its recipe. */
export function cutName(cut: CutSummary): string {
	return cut.recipe_name === 'Untitled' && !cut.filter_count ? 'Hard cut' : cut.recipe_name;
}

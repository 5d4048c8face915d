// An edit as it is arranged: changes are shown at once, saved in order, undone and redone.
import {
	api,
	request,
	Refusal,
	type BookRecipe,
	type CutSummary,
	type Edit,
	type Music,
	type Placed
} from '$lib/api/client';
import type { Saver } from '$lib/saving/saver.svelte';
import { rateNumber } from '$lib/ui/numbers';
import { toast } from '$lib/ui/toast.svelte';
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
import { limitedShift, roomOf, type Shifted } from './room';
import { CutSelection } from './selection.svelte';

export class EditDocument {
	readonly #changes: PendingChanges;
	#operations = 0;
	readonly selection: CutSelection;

	constructor(edit: Edit) {
		this.#changes = new PendingChanges(edit, () => this.#newest());
		this.selection = new CutSelection(() => this.edit.cuts.map((cut) => cut.id));
	}

	/** The edit with the changes that are not saved yet. */
	get edit(): Edit {
		return this.#changes.edit;
	}

	get saver(): Saver {
		return this.#changes.saver;
	}

	/** The edit as the server knows it. */
	get base(): Edit {
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

	/** The frames on which beats lie, as the server knows them; without a tempo none. */
	beatFrames = $state.raw<number[]>([]);

	change(body: EditChange) {
		const facts = Object.keys(body) as (keyof EditChange)[];
		this.#changes.put({
			key: `edit ${facts.join()}`,
			name: 'The edit',
			show: (edit) => withFacts(edit, body),
			ask: (query, options) =>
				request(api.PATCH('/api/edits/{edit_id}', { params: this.path(query), body, ...options })),
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
						params: this.path(query),
						body: { clip: clip.id, offset_s, gain_db },
						...options
					})
				),
			about: (edit) => edit.music
		});
	}

	removeMusic() {
		this.#operate('The music', null, (query) =>
			request(api.DELETE('/api/edits/{edit_id}/music', { params: this.path(query) }))
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

	/** Split a placed clip before a frame of it and apply a recipe to the new cut. */
	addAccent(placed: Placed, at_frame: number, { name, recipe, before, after }: BookRecipe) {
		const body = {
			placed: placed.id,
			at_frame,
			// The server validates the recipe; its type there is a union of every filter.
			recipe: { ...recipe, name } as never,
			window: { before, after, rate: this.edit.rate }
		};
		this.#operate(placed.name, placed.id, (query) =>
			request(api.POST('/api/edits/{edit_id}/accents', { params: this.path(query), body }))
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
			request(api.POST('/api/edits/{edit_id}/clips', { params: this.path(query), body: { clip } }))
		);
	}

	/** Move a cut or an end of its window by frames, as far as there is room. */
	shift(cutId: string, what: Shifted, by: number) {
		const n = this.edit.cuts.findIndex((each) => each.id === cutId);
		const cut = this.edit.cuts[n];
		const limited = cut ? limitedShift(roomOf(this.edit, n), cut, what, by) : 0;
		if (!cut || !limited) return;
		if (what === 'seam') this.#moveCuts([cutId], limited);
		else if (what === 'before') this.#setWindow(n, cut, cut.before - limited, cut.after);
		else this.#setWindow(n, cut, cut.before, cut.after + limited);
	}

	/** Move every selected cut by frames, each as far as there is room: one change of the edit. */
	shiftChosen(by: number) {
		this.#moveCuts(this.selection.ids, by);
	}

	#moveCuts(ids: readonly string[], by: number) {
		const key = `move ${[...ids].sort().join()}`;
		const moves = new Map(this.#changes.waiting(key)?.moves);
		let edit = this.edit;
		// The cut in front makes room for those behind it.
		const order = edit.cuts.map(({ id }) => id).filter((id) => ids.includes(id));
		for (const id of by > 0 ? order.reverse() : order) {
			const n = edit.cuts.findIndex((cut) => cut.id === id);
			const cut = edit.cuts[n] as CutSummary;
			const limited = limitedShift(roomOf(edit, n), cut, 'seam', by);
			if (!limited) continue;
			edit = withMovedCut(edit, id, limited);
			moves.set(id, (moves.get(id) ?? 0) + limited);
		}
		if (!moves.size) return;
		const all = [...moves].map(([cut, frames]) => ({ cut, by: frames }));
		const places = order.map((id) => edit.cuts.findIndex((cut) => cut.id === id));
		this.#changes.put({
			key,
			moves,
			name: places.length === 1 ? `Cut ${(places[0] as number) + 1}` : 'One of the cuts',
			show: (shown) => all.reduce((now, each) => withMovedCut(now, each.cut, each.by), shown),
			ask: async (query) => (await this.askMoves(all, query)).edit,
			about: (now) =>
				places.map((n) => [now.placed[n], now.placed[n + 1]].map((each) => each && trimOf(each)))
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
						params: { path: { edit_id: this.base.id, cut_id: cut.id }, query },
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

	async #step(path: '/api/edits/{edit_id}/undo' | '/api/edits/{edit_id}/redo') {
		await this.saved(async () => {
			const params = this.path({ version: this.base.version });
			this.take(await request(api.POST(path, { params })));
		});
	}

	/** Do something once everything is saved; where the edit was changed elsewhere, show that. */
	async saved(work: () => Promise<void>) {
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
			this.take(await this.#newest());
		} catch (error) {
			toast.error(error);
		}
	}

	/** Take what the checks of cuts found that had not run when the edit was read. */
	async readChecks(): Promise<boolean> {
		const asked = api.GET('/api/edits/{edit_id}/checks', {
			params: { path: { edit_id: this.base.id } }
		});
		const found = new Map((await request(asked)).map((each) => [each.cut, each]));
		const cuts = this.base.cuts.map((cut) => {
			const { worst = null, problem = null } = found.get(cut.id) ?? {};
			return cut.worst || !worst ? cut : { ...cut, worst, problem };
		});
		this.#changes.base = { ...this.base, cuts };
		return cuts.every((cut) => cut.worst);
	}

	/** Take where the beats lie. */
	async readBeats(): Promise<number> {
		const params = { path: { edit_id: this.base.id } };
		const { frames } = await request(api.GET('/api/edits/{edit_id}/beats', { params }));
		this.beatFrames = frames;
		return frames.length;
	}

	#newest(): Promise<Edit> {
		const path = { edit_id: this.base.id };
		return request(api.GET('/api/edits/{edit_id}', { params: { path } }));
	}

	/** Ask the server to move cuts, each a rolling trim of its clips. */
	askMoves(moves: { cut: string; by: number }[], query: Seen) {
		const params = this.path(query);
		return request(api.POST('/api/edits/{edit_id}/cuts/move', { params, body: { moves } }));
	}

	path(query: Seen) {
		return { path: { edit_id: this.base.id }, query };
	}

	#placedPath(placed_id: string, query: Seen) {
		return { path: { edit_id: this.base.id, placed_id }, query };
	}

	/** Show what the server answered. */
	take(edit: Edit) {
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

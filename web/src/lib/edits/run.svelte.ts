// The state of the edit screen: one edit, and the operations on it.
import {
	api,
	request,
	type BookRecipe,
	type CutSummary,
	type Edit,
	type Placed
} from '$lib/api/client';
import { toast } from '$lib/ui/toast.svelte';
import { counted, rateNumber } from '$lib/ui/numbers';
import { toNearestBeat, type Beats } from './beats';
import { heldShift, roomOf, type Shifted } from './room';

export type Flip = '' | 'horizontal' | 'vertical';
export type PlacedChange = {
	in_frame?: number;
	out_frame?: number;
	position?: number;
	muted?: boolean;
};

export class Run {
	edit = $state.raw() as Edit;
	/** Operations run one after another, each on the result of the one before. */
	#turn: Promise<void> = Promise.resolve();
	/** Ids of the selected cuts. */
	chosen = $state<string[]>([]);

	constructor(edit: Edit) {
		this.edit = edit;
	}

	get rate(): number {
		return rateNumber(this.edit.rate);
	}

	/** The frame of the edit at which each clip begins. */
	get starts(): number[] {
		let at = 0;
		return this.edit.placed.map((each) => {
			at += each.out_frame - each.in_frame;
			return at - (each.out_frame - each.in_frame);
		});
	}

	get beats(): Beats | null {
		const { beats_per_minute, beat_offset_s } = this.edit;
		return beats_per_minute
			? { perMinute: beats_per_minute, offsetS: beat_offset_s, rate: this.rate }
			: null;
	}

	async #take(asked: Parameters<typeof request<Edit>>[0]): Promise<boolean> {
		try {
			this.edit = await request(asked);
			this.chosen = this.chosen.filter((id) => this.edit.cuts.some((cut) => cut.id === id));
			return true;
		} catch (error) {
			toast.error(error);
			return false;
		}
	}

	get #path() {
		return { params: { path: { edit_id: this.edit.id } } };
	}

	#placedPath(placed: Placed) {
		return { params: { path: { edit_id: this.edit.id, placed_id: placed.id } } };
	}

	change(body: { name?: string; beats_per_minute?: number; beat_offset_s?: number }) {
		return this.#take(api.PATCH('/api/edits/{edit_id}', { ...this.#path, body }));
	}

	undo() {
		return this.#take(api.POST('/api/edits/{edit_id}/undo', this.#path));
	}

	changePlaced(placed: Placed, body: PlacedChange) {
		return this.#take(
			api.PATCH('/api/edits/{edit_id}/placed/{placed_id}', { ...this.#placedPath(placed), body })
		);
	}

	split(placed: Placed, at_frame: number) {
		return this.#take(
			api.POST('/api/edits/{edit_id}/placed/{placed_id}/split', {
				...this.#placedPath(placed),
				body: { at_frame }
			})
		);
	}

	remove(placed: Placed) {
		return this.#take(
			api.DELETE('/api/edits/{edit_id}/placed/{placed_id}', this.#placedPath(placed))
		);
	}

	add(clip: string) {
		return this.#take(api.POST('/api/edits/{edit_id}/clips', { ...this.#path, body: { clip } }));
	}

	/** Move a cut or an end of its window by frames, as far as there is room. */
	shift(cutId: string, what: Shifted, by: number): Promise<void> {
		this.#turn = this.#turn.then(async () => {
			const n = this.edit.cuts.findIndex((each) => each.id === cutId);
			const cut = this.edit.cuts[n];
			if (!cut) return;
			const held = heldShift(roomOf(this.edit, n), cut, what, by);
			try {
				if (!held) return;
				else if (what === 'seam') await this.#moveCut(cut, held);
				else if (what === 'before') await this.#setWindow(cut, cut.before - held, cut.after);
				else await this.#setWindow(cut, cut.before, cut.after + held);
			} catch (error) {
				toast.error(error);
			}
			await this.#take(api.GET('/api/edits/{edit_id}', this.#path));
		});
		return this.#turn;
	}

	#moveCut(cut: CutSummary, by: number) {
		const path = { params: { path: { cut_id: cut.id } } };
		return request(api.POST('/api/cuts/{cut_id}/move', { ...path, body: { by } }));
	}

	/** Set a cut's window; its transition stays as it is. */
	async #setWindow(cut: CutSummary, before: number, after: number) {
		const path = { params: { path: { cut_id: cut.id } } };
		const label = `Window ${cut.before} | ${cut.after} → ${before} | ${after}`;
		const { recipe, version } = await request(api.GET('/api/cuts/{cut_id}', path));
		const body = { before, after, recipe: recipe as never, version, label };
		await request(api.PUT('/api/cuts/{cut_id}', { ...path, body }));
	}

	toggle(cutId: string) {
		this.chosen = this.chosen.includes(cutId)
			? this.chosen.filter((id) => id !== cutId)
			: [...this.chosen, cutId];
	}

	/** How many frames each of the chosen cuts (or of all) lies from its nearest beat. */
	get offBeat(): { cut: CutSummary; by: number }[] {
		const { beats } = this;
		if (!beats) return [];
		return this.edit.cuts
			.map((cut, n) => ({ cut, by: toNearestBeat(beats, this.starts[n + 1] ?? 0) }))
			.filter(({ cut, by }) => by && (!this.chosen.length || this.chosen.includes(cut.id)));
	}

	/** Move cuts to their nearest beats; each move is a step in the history. */
	async snapToBeats() {
		const moves = this.offBeat;
		let moved = 0;
		for (const { cut, by } of moves) {
			try {
				await this.#moveCut(cut, by);
				moved += 1;
			} catch (error) {
				toast.error(error);
			}
		}
		await this.#take(api.GET('/api/edits/{edit_id}', this.#path));
		toast.info(
			`Moved ${counted(moved, 'cut')} to the nearest beat. Undo reverts the moves one by one.`
		);
	}

	/** Apply a recipe to the chosen cuts, in one step that can be undone. */
	async apply(entry: BookRecipe, flips: Flip) {
		const seen = this.edit.cuts
			.filter((cut) => this.chosen.includes(cut.id))
			.map((cut) => ({ cut: cut.id, version: cut.version }));
		const body = {
			cuts: seen,
			// The server validates the recipe; its type there is a union of every filter.
			recipe: { ...entry.recipe, name: entry.name } as never,
			window: { before: entry.before, after: entry.after, rate: this.edit.rate },
			flip_alternate: flips || null
		};
		if (!(await this.#take(api.POST('/api/edits/{edit_id}/apply', { ...this.#path, body }))))
			return;
		toast.info(`Applied “${entry.name}” to ${counted(seen.length, 'cut')}`, {
			label: 'Undo',
			run: () => void this.#unapply(seen.map((each) => each.cut))
		});
	}

	#unapply(ids: string[]) {
		const cuts = this.edit.cuts
			.filter((cut) => ids.includes(cut.id))
			.map((cut) => ({ cut: cut.id, version: cut.version }));
		const asked = api.POST('/api/edits/{edit_id}/apply/undo', { ...this.#path, body: { cuts } });
		return this.#take(asked);
	}
}

/** The name of a cut: that of its recipe. */
export function cutName(cut: CutSummary): string {
	return cut.recipe_name === 'Untitled' && !cut.filter_count ? 'Hard cut' : cut.recipe_name;
}

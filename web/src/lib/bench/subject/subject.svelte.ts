// The subject of one clip at a cut: its strokes, how they are saved and undone, and its mattes.
import { api, request, type Strokes, type SubjectFacts, type SubjectView } from '$lib/api/client';
import { isActive } from '$lib/shell/activity';
import type { TransitionDocument } from '$lib/bench/transition.svelte';
import type { ClipSide } from '$lib/bench/cutTypes';
import { toast } from '$lib/ui/toast.svelte';
import { keepHistory, keptHistory } from './strokeHistory';
import { saysSomething } from './strokes';

/** The pause between questions how far mattes are. */
export const ASK_AGAIN_MS = 700;

export class Subject {
	facts = $state.raw<SubjectFacts | null>(null);
	strokes = $state.raw<Strokes[]>([]);
	/** Names the stored strokes that this window saw last. */
	#version = '';
	#undone = $state.raw<Strokes[][]>([]);
	/** Grows with everything that is drawn, undone or saved: an answer asked for before it is an older one. */
	#changes = 0;
	#done = $state.raw<Strokes[][]>([]);
	/** Whether the server is to be asked again: mattes are being made, or its answer was an older one. */
	asks = $state(false);
	#closed = false;

	constructor(
		readonly transition: TransitionDocument,
		readonly side: ClipSide,
		/** Called when other mattes are to be shown. */
		readonly onmatte: () => void
	) {}

	get matte() {
		return this.facts?.matte ?? null;
	}

	/** Whether its mattes are being made, or wait for it. */
	get atWork(): boolean {
		return !!this.matte && isActive(this.matte);
	}

	get canUndo(): boolean {
		return this.#done.length > 0;
	}

	get canRedo(): boolean {
		return this.#undone.length > 0;
	}

	get #key() {
		return `subject ${this.side}`;
	}

	get #placedId(): string {
		return this.transition.cut[this.side].id;
	}

	get #isUnsaved(): boolean {
		return this.transition.saver.holds(this.#key);
	}

	get #path() {
		return { path: { cut_id: this.transition.cut.id, side: this.side } };
	}

	/** What the server knows; where they are `needed`, mattes that the window lacks are made. */
	async load(needed: boolean): Promise<void> {
		await this.#take(this.#asked(), true);
		if (!this.canUndo && !this.canRedo) {
			const { done, undone } = keptHistory(this.#placedId, this.#version);
			[this.#done, this.#undone] = [done, undone];
		}
		if (!needed || !this.strokes.length || !this.facts) return;
		const { matte, first_shown: first, last_shown: last } = this.facts;
		const whole = matte && matte.first <= first && last <= matte.last;
		if (!whole || !['waiting', 'running', 'done'].includes(matte.state)) await this.make();
	}

	/** Make the mattes that are missing. */
	make(): Promise<void> {
		const path = '/api/cuts/{cut_id}/subject/{side}/mattes';
		return this.#take(request(api.POST(path, { params: this.#path })) as Promise<SubjectFacts>);
	}

	cancel(): Promise<void> {
		const path = '/api/cuts/{cut_id}/subject/{side}/mattes/cancel';
		return this.#take(request(api.POST(path, { params: this.#path })) as Promise<SubjectFacts>);
	}

	/** Draw: the strokes are saved, and the mattes are made of them. */
	draw(strokes: Strokes[]) {
		if (strokes === this.strokes) return;
		this.#done = [...this.#done, this.strokes];
		this.#undone = [];
		this.#set(strokes);
	}

	undo() {
		const last = this.#done.at(-1);
		if (!last) return;
		this.#done = this.#done.slice(0, -1);
		this.#undone = [...this.#undone, this.strokes];
		this.#set(last);
	}

	redo() {
		const next = this.#undone.at(-1);
		if (!next) return;
		this.#undone = this.#undone.slice(0, -1);
		this.#done = [...this.#done, this.strokes];
		this.#set(next);
	}

	/** A picture of the clip with its matte. */
	async look(picture: number, view: SubjectView): Promise<Blob> {
		return request(
			api.POST('/api/cuts/{cut_id}/subject/{side}/look', {
				params: this.#path,
				body: { picture, strokes: saysSomething(this.strokes) ? this.strokes : [], view },
				parseAs: 'blob'
			})
		);
	}

	/** After a conflict: save these strokes over those of the other window, or show those; undo brings these back. */
	async resolve(keep: 'theirs' | 'mine') {
		const facts = await this.#asked();
		if (keep === 'theirs' && this.#isUnsaved) {
			this.#done = [...this.#done, this.strokes];
			this.#undone = [];
			this.#changes += 1;
		}
		if (keep === 'theirs') this.#takeStrokes(facts);
		else this.#version = facts.version;
		this.#know(facts);
	}

	close() {
		this.#closed = true;
		this.asks = false;
	}

	#set(strokes: Strokes[]) {
		this.#changes += 1;
		this.strokes = strokes;
		// Strokes that only say what is not the subject wait for the first that says what is.
		if (strokes.length && !saysSomething(strokes)) return;
		this.transition.saver.put({
			key: this.#key,
			takeBack: () => {
				this.#changes += 1;
				this.strokes = this.facts?.strokes ?? [];
			},
			send: async () => {
				const sent = this.strokes;
				const facts = await request(
					api.PUT('/api/cuts/{cut_id}/subject/{side}', {
						params: this.#path,
						body: { strokes: sent, version: this.#version }
					})
				);
				this.#changes += 1;
				this.#version = facts.version;
				const history = { done: this.#done, undone: this.#undone };
				// What was drawn meanwhile is saved next.
				if (sent === this.strokes) keepHistory(this.#placedId, facts.version, history);
				this.#know(facts as SubjectFacts);
			}
		});
	}

	#asked(): Promise<SubjectFacts> {
		const asked = api.GET('/api/cuts/{cut_id}/subject/{side}', { params: this.#path });
		return request(asked) as Promise<SubjectFacts>;
	}

	async #take(asked: Promise<SubjectFacts>, withStrokes = false) {
		const changes = this.#changes;
		try {
			this.#heed(await asked, changes, withStrokes);
		} catch (error) {
			toast.error(error);
		}
	}

	/** Take in an answer that was asked for at a count of `changes`; an older one is asked for again. */
	#heed(facts: SubjectFacts, changes: number, withStrokes: boolean) {
		if (this.#closed) return;
		if (changes !== this.#changes) {
			this.asks = true;
			return;
		}
		if (withStrokes && !this.#isUnsaved) this.#takeStrokes(facts);
		this.#know(facts);
	}

	#takeStrokes(facts: SubjectFacts) {
		this.#version = facts.version;
		if (JSON.stringify(facts.strokes) !== JSON.stringify(this.strokes))
			this.strokes = facts.strokes;
	}

	#know(facts: SubjectFacts) {
		const was = this.facts?.matte;
		this.facts = facts;
		const now = facts.matte;
		if (was?.id !== now?.id || was?.state !== now?.state || was?.last !== now?.last) this.onmatte();
		this.asks = this.atWork;
	}

	/** Ask how far the mattes are; strokes of another window are shown where none of this one wait. */
	async ask(): Promise<boolean> {
		const changes = this.#changes;
		this.#heed(await this.#asked(), changes, true);
		return this.asks;
	}
}

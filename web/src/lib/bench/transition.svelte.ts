// The transition of a cut as it is edited: recipe, window and framing, and how they are saved.
import { goto } from '$app/navigation';
import { api, request, Refusal, type Catalogue, type Cut } from '$lib/api/client';
import type { Filter, Recipe } from '$lib/recipe/recipe';
import { Saver, type SendOptions } from '$lib/saving/saver.svelte';
import { rateNumber } from '$lib/ui/numbers';
import { toast } from '$lib/ui/toast.svelte';
import type { Changed, ClipSide } from './cutTypes';
import { ClipFraming } from './framing.svelte';

const SAVE_AFTER_MS = 350;
const TRANSITION = 'transition';

/** What is changed while an answer is on its way that replaces the state: it is repeated on that. */
type Meanwhile = {
	changes: ((recipe: Recipe) => Recipe)[];
	window: { before: number; after: number } | null;
};

export class TransitionDocument {
	cut = $state.raw() as Cut;
	recipe = $state.raw() as Recipe;
	before = $state(1);
	after = $state(1);
	/** The last saved recipe, for the old value in the labels of the history. */
	asSaved = $state.raw() as Recipe;
	readonly saver = new Saver();
	readonly framing: ClipFraming;
	/** Called after every change, before it is saved. */
	onchange: (what: Changed) => void = () => {};

	/** Called before a conflict ends: what is saved beside the transition takes the chosen side. */
	onresolve: (keep: 'theirs' | 'mine') => Promise<unknown> = async () => {};

	/** Called when a change of the transition has been saved. */
	onsaved: () => void = () => {};

	#version = 0;
	#label = '';
	#meanwhile: Meanwhile | null = null;
	/** Reshapes and loads wait for one another: each is made on what the one before left. */
	#replacing: Promise<unknown> = Promise.resolve();
	/** Grows when another state is loaded: reshapes of the former one are dropped. */
	#loaded = 0;

	constructor(
		cut: Cut,
		readonly catalogue: Catalogue
	) {
		this.framing = new ClipFraming(this);
		this.#load(cut);
	}

	/** The version of the cut that this window saw. */
	get version(): number {
		return this.#version;
	}

	get rate(): number {
		return rateNumber(this.cut.rate);
	}

	/** Change the recipe; `label` names the step in the history. */
	change(label: string, change: (recipe: Recipe) => Recipe) {
		this.recipe = change(this.recipe);
		this.#meanwhile?.changes.push(change);
		this.#changed(label);
	}

	changeFilter(id: string, label: string, change: (filter: Filter) => Filter) {
		this.change(label, (recipe) => ({
			...recipe,
			filters: recipe.filters.map((filter) => (filter.id === id ? change(filter) : filter))
		}));
	}

	/**
	 * Change the recipe to what `make` answers for it; changes made meanwhile are repeated on the result.
	 * Returns the answer where it is now the recipe.
	 */
	reshape(label: string, make: (recipe: Recipe) => Promise<Recipe>): Promise<Recipe | null> {
		return this.#replace(async () => {
			const loaded = this.#loaded;
			const made = await this.#recording(() => make(this.recipe));
			if (loaded !== this.#loaded) return null;
			const { changes } = made.meanwhile;
			this.recipe = changes.reduce((recipe, change) => change(recipe), made.answer);
			this.#changed(changes.length ? this.#label : label);
			return changes.length ? null : made.answer;
		});
	}

	/** Do what replaces the state in its turn; null where it fails, which is said. */
	#replace<T>(work: () => Promise<T>): Promise<T | null> {
		const done = this.#replacing.then(work).catch((error: unknown) => {
			toast.error(error);
			return null;
		});
		this.#replacing = done;
		return done;
	}

	/** Wait for an answer, and take down what is changed until it comes. */
	async #recording<T>(ask: () => Promise<T>): Promise<{ answer: T; meanwhile: Meanwhile }> {
		const meanwhile = (this.#meanwhile = { changes: [], window: null });
		try {
			return { answer: await ask(), meanwhile };
		} finally {
			this.#meanwhile = null;
		}
	}

	/** Set the window, limited by the clips and the neighbouring windows; say so where it is limited. */
	setWindow(before: number, after: number) {
		if (before > this.cut.most_before) this.#sayLimited('outgoing', this.cut.previous_id, -1);
		if (after > this.cut.most_after) this.#sayLimited('incoming', this.cut.next_id, 1);
		const next = {
			before: Math.min(Math.max(1, Math.round(before)), this.cut.most_before),
			after: Math.min(Math.max(1, Math.round(after)), this.cut.most_after)
		};
		if (next.before === this.before && next.after === this.after) return;
		const label = `Window ${this.before} | ${this.after} → ${next.before} | ${next.after}`;
		this.before = next.before;
		this.after = next.after;
		if (this.#meanwhile) this.#meanwhile.window = next;
		this.#changed(label);
	}

	#sayLimited(side: ClipSide, neighbour: string | null, step: number) {
		const number = this.cut.number + step;
		if (!neighbour) toast.info(`The window cannot be longer: the ${side} clip has no more frames.`);
		else
			toast.info(
				`The window cannot be longer: it meets the window of cut ${number}. Shorten that one first.`,
				{ label: `Open cut ${number}`, run: () => void goto(`/cuts/${neighbour}`) }
			);
	}

	/** After a conflict: load the other window's version, or save this one over it. */
	async resolve(keep: 'theirs' | 'mine', pin: () => Promise<boolean>) {
		try {
			const theirs = await this.newest();
			// The changes made here are kept as a variant.
			if (keep === 'theirs' && !(await pin())) return;
			await this.onresolve(keep);
			if (keep === 'theirs') {
				this.framing.drop(theirs);
				this.saver.resolved(false);
				this.#load(theirs);
				this.onchange('framing');
			} else {
				this.takeFacts(theirs);
				this.framing.keepOver(theirs);
				this.#version = theirs.version;
				this.saver.resolved(true);
			}
		} catch (error) {
			toast.error(error);
		}
	}

	close() {
		void this.saver.flush();
	}

	/** The cut as it is stored now. */
	newest(): Promise<Cut> {
		return request(api.GET('/api/cuts/{cut_id}', { params: { path: { cut_id: this.cut.id } } }));
	}

	/**
	 * Show what `ask` answers, once everything is saved; where another window was faster, its state.
	 * What is changed meanwhile is repeated on it.
	 */
	async loadFrom(ask: () => Promise<Cut>): Promise<void> {
		await this.#replace(async () => {
			// What waits to be saved is sent with the version of what is loaded: that comes first.
			const done = await this.saver.afterSaving(async () => {
				const { answer, meanwhile } = await this.#recording(() => this.#answer(ask));
				this.#load(answer, meanwhile);
				return true;
			});
			if (!done) toast.error(`Not done: there are unsaved changes. ${this.saver.problem}`);
		});
	}

	/** The answer; where the cut was changed elsewhere, and nothing is unsaved here, what it is now. */
	async #answer(ask: () => Promise<Cut>): Promise<Cut> {
		try {
			return await ask();
		} catch (error) {
			if (!(error instanceof Refusal && error.status === 409)) throw error;
			toast.info('This cut was changed in another window. Its newest state is shown.');
			return this.newest();
		}
	}

	#load(cut: Cut, { changes, window }: Meanwhile = { changes: [], window: null }) {
		this.#loaded += 1;
		const moved = this.takeFacts(cut);
		this.before = Math.min(window?.before ?? cut.before, cut.most_before);
		this.after = Math.min(window?.after ?? cut.after, cut.most_after);
		const reframed = this.framing.take(cut);
		this.asSaved = cut.recipe as Recipe;
		this.recipe = changes.reduce((recipe, change) => change(recipe), this.asSaved);
		this.#version = cut.version;
		this.onchange(moved ? 'clips' : reframed ? 'framing' : 'state');
	}

	/** Take what surrounds the transition; return whether its clips were trimmed. */
	takeFacts(cut: Cut): boolean {
		const was = this.cut as Cut | undefined;
		this.cut = cut;
		const ends = (of: Cut) => [of.outgoing.id, of.outgoing.end_shown, of.incoming.first_shown];
		return was !== undefined && !same(ends(was), ends(cut));
	}

	#changed(label: string) {
		this.#label = label;
		this.onchange('state');
		const send = (options: SendOptions) => this.#sendTransition(options);
		this.saver.put({ key: TRANSITION, send, takeBack: () => this.#takeBack() }, SAVE_AFTER_MS);
	}

	/** Show the transition as it was saved last. */
	#takeBack() {
		this.#loaded += 1;
		this.recipe = this.asSaved;
		this.before = this.cut.before;
		this.after = this.cut.after;
		this.onchange('state');
	}

	async #sendTransition({ keepalive }: SendOptions) {
		const { recipe, before, after } = this;
		const asked = api.PUT('/api/cuts/{cut_id}', {
			params: { path: { cut_id: this.cut.id } },
			// The server validates the recipe; its type there is a union of every filter.
			body: { version: this.#version, before, after, recipe: recipe as never, label: this.#label },
			keepalive
		});
		const cut = await request(asked);
		this.#version = cut.version;
		this.onsaved();
		this.asSaved = recipe;
		if (this.takeFacts(cut)) this.onchange('clips');
	}
}

function same(one: unknown, other: unknown): boolean {
	return JSON.stringify(one) === JSON.stringify(other);
}

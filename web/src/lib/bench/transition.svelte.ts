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
	/** Changes made while a reshape is on its way: they are repeated on its result. */
	#meanwhile: ((recipe: Recipe) => Recipe)[] | null = null;
	#reshaping: Promise<unknown> = Promise.resolve();
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
		this.#meanwhile?.push(change);
		this.#changed(label);
	}

	changeFilter(id: string, label: string, change: (filter: Filter) => Filter) {
		this.change(label, (recipe) => ({
			...recipe,
			filters: recipe.filters.map((filter) => (filter.id === id ? change(filter) : filter))
		}));
	}

	/**
	 * Change the recipe to what `make` answers for it. Reshapes wait for one another; changes made
	 * meanwhile are repeated on the result. Returns the answer where it is now the recipe.
	 */
	reshape(label: string, make: (recipe: Recipe) => Promise<Recipe>): Promise<Recipe | null> {
		const done = this.#reshaping.then(async () => {
			const loaded = this.#loaded;
			const meanwhile: ((recipe: Recipe) => Recipe)[] = (this.#meanwhile = []);
			try {
				const made = await make(this.recipe);
				if (loaded !== this.#loaded) return null;
				this.recipe = meanwhile.reduce((recipe, change) => change(recipe), made);
				this.#changed(meanwhile.length ? this.#label : label);
				return meanwhile.length ? null : made;
			} catch (error) {
				toast.error(error);
				return null;
			} finally {
				this.#meanwhile = null;
			}
		});
		this.#reshaping = done;
		return done;
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
			if (keep === 'theirs') this.#load(theirs);
			else {
				this.takeFacts(theirs);
				this.framing.keepOver(theirs);
				this.#version = theirs.version;
			}
			this.saver.resolved(keep === 'mine');
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

	/** Show what `ask` answers, once everything is saved; where another window was faster, its state. */
	async loadFrom(ask: () => Promise<Cut>): Promise<void> {
		await this.#reshaping;
		try {
			const cut = await this.saver.afterSaving(ask);
			if (cut) this.#load(cut);
			else toast.error(`Not done: there are unsaved changes. ${this.saver.problem}`);
		} catch (error) {
			if (!(error instanceof Refusal && error.status === 409)) toast.error(error);
			// Nothing is unsaved here: what the other window made of it is shown.
			else await this.#loadTheirs();
		}
	}

	async #loadTheirs() {
		toast.info('This cut was changed in another window. Its newest state is shown.');
		try {
			this.#load(await this.newest());
		} catch (error) {
			toast.error(error);
		}
	}

	#load(cut: Cut) {
		this.#loaded += 1;
		const moved = this.takeFacts(cut);
		this.before = cut.before;
		this.after = cut.after;
		const reframed = this.framing.take(cut);
		this.recipe = this.asSaved = cut.recipe as Recipe;
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
		this.saver.put({ key: TRANSITION, send }, SAVE_AFTER_MS);
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

// The bench: one cut's transition, how it is viewed, played, previewed and compared.
import type { Catalogue, Cut } from '$lib/api/client';
import { accentOf } from '$lib/recipe/accent';
import { LoopSound } from '$lib/sound/loopSound.svelte';
import { usesSubject } from '$lib/recipe/region';
import { Player } from './playback/player.svelte';
import type { Preview } from './preview/preview.svelte';
import { Subject } from './subject/subject.svelte';
import { TransitionDocument } from './transition.svelte';
import type { ClipSide } from './cutTypes';
import { FrameValues } from './curves/frameValues.svelte';
import { Dials } from './transport/dials.svelte';
import { Variants } from './variants.svelte';
import { View } from './view.svelte';

export class Bench {
	readonly transition: TransitionDocument;
	readonly view: View;
	readonly player: Player;
	readonly variants: Variants;
	readonly dials: Dials;
	readonly values: FrameValues;
	readonly subjects: Record<ClipSide, Subject>;
	#heard = '';

	constructor(
		cut: Cut,
		readonly catalogue: Catalogue,
		/** The cut's preview; its owner closes it. */
		readonly preview: Preview
	) {
		this.transition = new TransitionDocument(cut, catalogue);
		this.view = new View(this.transition, preview);
		this.player = new Player(this.view, new LoopSound(cut.id));
		this.variants = new Variants(this.transition, this.view);
		this.dials = new Dials(this.transition);
		this.values = new FrameValues(this.transition);
		const onmatte = () => this.#followSubjects();
		this.subjects = {
			outgoing: new Subject(this.transition, 'outgoing', onmatte),
			incoming: new Subject(this.transition, 'incoming', onmatte)
		};
		this.transition.onchange = (what) => {
			if (what === 'framing') preview.forgetSources();
			if (what === 'clips') preview.reopen();
			this.view.refresh();
			this.player.follow(what);
		};
		this.transition.onsaved = () => {
			this.#followSound();
			this.#needSubjects();
		};
		this.transition.onresolve = (keep) =>
			Promise.all(Object.values(this.subjects).map((each) => each.resolve(keep)));
		this.#heard = this.#soundState();
		this.view.refresh();
		const needed = usesSubject(this.transition.recipe);
		void this.subjects.outgoing.load(needed);
		void this.subjects.incoming.load(needed);
	}

	/** Other mattes are there: the pictures with them are made anew. */
	#followSubjects() {
		const { outgoing, incoming } = this.subjects;
		this.view.subjects = [outgoing.matte?.id ?? null, incoming.matte?.id ?? null];
		if (usesSubject(this.transition.recipe)) this.view.refresh();
	}

	/** A window that has grown, or a recipe that reaches further, needs mattes of more frames. */
	#needSubjects() {
		if (!usesSubject(this.transition.recipe)) return;
		for (const subject of Object.values(this.subjects)) {
			if (subject.strokes.length) void subject.make();
		}
	}

	/** What the sound around the cut depends on. */
	#soundState(): string {
		const { before, after, recipe } = this.transition;
		const accent = accentOf(recipe);
		const followed = accent?.follow ? [recipe.mix, recipe.filters] : [];
		return JSON.stringify([before, after, recipe.retime, accent, followed]);
	}

	/** The server plays what is saved: where that sounds otherwise, the loop takes it up. */
	#followSound() {
		const heard = this.#soundState();
		if (heard !== this.#heard) this.player.changeSound();
		this.#heard = heard;
	}

	/** Leave the cut. */
	close() {
		this.transition.close();
		this.variants.close();
		this.player.close();
		this.subjects.outgoing.close();
		this.subjects.incoming.close();
	}
}

// The bench: one cut's transition, how it is viewed, played, previewed and compared.
import type { Catalogue, Cut } from '$lib/api/client';
import { LoopSound } from './playback/loopSound.svelte';
import { Player } from './playback/player.svelte';
import type { Preview } from './preview/preview.svelte';
import { TransitionDocument } from './transition.svelte';
import { Dials } from './transport/dials.svelte';
import { Variants } from './variants.svelte';
import { View } from './view.svelte';

export class Bench {
	readonly transition: TransitionDocument;
	readonly view: View;
	readonly player: Player;
	readonly variants: Variants;
	readonly dials: Dials;

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
		this.transition.onchange = (what) => {
			if (what === 'framing') preview.forgetSources();
			if (what === 'clips') preview.reopen();
			this.view.refresh();
			this.player.follow(what);
		};
		this.view.refresh();
	}

	/** Leave the cut. */
	close() {
		this.transition.close();
		this.variants.close();
		this.player.close();
	}
}

// How the transition is looked at: the shown frame, the view, what is selected, the parts of the screen.
import { fillScreen, isFullScreen } from '$lib/ui/fullScreen';
import { Remembered } from '$lib/ui/remembered.svelte';
import type { Preview } from './preview/preview.svelte';
import type { ClipSide } from './cutTypes';
import type { TransitionDocument } from './transition.svelte';

export const VIEWS = [
	{ value: 'result', name: 'Result' },
	{ value: 'original', name: 'Original' },
	{ value: 'split', name: 'Split' },
	{ value: 'difference', name: 'Difference' },
	{ value: 'cut frames', name: 'Cut frames overlaid' },
	{ value: 'cut difference', name: 'Cut frames, difference' },
	{ value: 'cut tints', name: 'Cut frames, tinted' }
] as const;
export type Compare = (typeof VIEWS)[number]['value'];

export const MOST_RUN_UP = 100;
const USUAL_RUN_UP = 12;

export class View {
	/** The selected lane: a filter's id, `mix`, or `retime-outgoing` and `retime-incoming`. */
	selected = $state('');
	shown = $state(0);
	compare = $state<Compare>('result');
	/** Whether H is held: the original is shown, whatever the view. */
	showsOriginal = $state(false);
	/** Position of the split line, as a share of the picture's width. */
	splitAt = $state(0.5);
	/** The clip whose framing is changed on the picture; null for none. */
	framing = $state<ClipSide | null>(null);
	/** The view to come back to after framing. */
	#unframed: Compare = 'result';
	/** Whether the open lane draws the speed of its curve. */
	showSpeed = $state(false);
	/** Whether the picture fills the screen; it still does after a step to another cut. */
	large = $state(isFullScreen());
	/** The share of the height that the picture row takes; 0 for the usual one. */
	readonly pictureShare = new Remembered<number>('idle-shimmer-picture-share', 0);
	readonly #wantedRunUp = new Remembered<number>('idle-shimmer-run-up', USUAL_RUN_UP);

	constructor(
		readonly transition: TransitionDocument,
		readonly preview: Preview
	) {
		this.selected = transition.recipe.filters[0]?.id ?? 'mix';
	}

	/** Frames shown before and after the window, as many as both clips have. */
	get runUp(): number {
		const { cut, before, after } = this.transition;
		const room = Math.min(cut.outgoing.edit_frames - before, cut.incoming.edit_frames - after);
		return Math.max(0, Math.min(this.#wantedRunUp.value, room));
	}

	get wantedRunUp(): number {
		return this.#wantedRunUp.value;
	}

	setRunUp(frames: number) {
		this.#wantedRunUp.value = frames;
		this.refresh();
	}

	get firstShown(): number {
		return -this.transition.before - this.runUp;
	}

	get lastShown(): number {
		return this.transition.after + this.runUp - 1;
	}

	/** How many frames of the loop are there as large as the picture is seen, and how many it has. */
	get sharp(): { ready: number; kept: number; all: number } {
		void this.preview.frameTick;
		let ready = 0;
		for (let offset = this.firstShown; offset <= this.lastShown; offset += 1)
			if (this.preview.sharp(offset)) ready += 1;
		const all = this.lastShown - this.firstShown + 1;
		return { ready, kept: Math.min(all, this.preview.keptSharp), all };
	}

	/** The mattes of outgoing and incoming that the preview shows. */
	subjects: [string | null, string | null] = [null, null];

	/** The current view. */
	get comparing(): Compare {
		return this.showsOriginal ? 'original' : this.compare;
	}

	select(id: string) {
		this.frame(null);
		this.selected = id;
	}

	/** Frame a clip: the picture shows both cut frames overlaid until that is over. */
	frame(side: ClipSide | null) {
		if (side === this.framing) return;
		if (side && !this.framing) this.#unframed = this.compare;
		this.framing = side;
		this.setCompare(side ? 'cut frames' : this.#unframed);
	}

	/** Show a frame, limited to the window and its run-up. */
	show(offset: number) {
		this.shown = this.#limited(offset);
		this.preview.showFrame(this.shown, this.#sources());
	}

	setLarge(large: boolean) {
		this.large = large;
		void fillScreen(large);
	}

	setCompare(compare: Compare) {
		this.compare = compare;
		this.preview.showFrame(this.shown, this.#sources());
	}

	hold(pressed: boolean) {
		this.showsOriginal = pressed;
		this.preview.showFrame(this.shown, this.#sources());
	}

	/** Show the newest state of the transition. */
	refresh() {
		const { before, after, recipe } = this.transition;
		const framing = this.transition.framing.now;
		this.shown = this.#limited(this.shown);
		this.preview.show(
			{ before, after, recipe, run_up: this.runUp, framing, subjects: this.subjects },
			this.shown,
			this.#sources()
		);
	}

	#limited(offset: number): number {
		return Math.min(Math.max(offset, this.firstShown), this.lastShown);
	}

	/** The original frames that the view needs. */
	#sources(): number[] {
		if (this.comparing === 'result') return [];
		return this.comparing.startsWith('cut') ? [-1, 0] : [this.shown];
	}
}

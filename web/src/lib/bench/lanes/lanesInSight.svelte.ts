// Which lanes the window is too low to show: how many lie above and below what is in sight.

/** A lane counts as hidden when more than this is out of sight. */
const SLACK_PX = 12;

export type Span = { top: number; bottom: number };

/** How many spans begin above `top`, and how many end below `bottom`. */
export function outOfSight(spans: Span[], top: number, bottom: number) {
	return {
		above: spans.filter((each) => each.top < top - SLACK_PX).length,
		below: spans.filter((each) => each.bottom > bottom + SLACK_PX).length
	};
}

export class LanesInSight {
	above = $state(0);
	below = $state(0);
	/** Whether what follows the lanes is out of sight. */
	endHidden = $state(false);
	#element: HTMLElement | null = null;

	/** Watches the lanes' scrolling element; an attachment. */
	watch = (element: HTMLElement) => {
		this.#element = element;
		const update = () => this.#update();
		const sizes = new ResizeObserver(update);
		const lanes = new MutationObserver(() => {
			this.#lanes().forEach((lane) => sizes.observe(lane));
			update();
		});
		sizes.observe(element);
		this.#lanes().forEach((lane) => sizes.observe(lane));
		lanes.observe(element, { childList: true });
		element.addEventListener('scroll', update, { passive: true });
		return () => {
			sizes.disconnect();
			lanes.disconnect();
			element.removeEventListener('scroll', update);
		};
	};

	/** Scroll by most of what is in sight. */
	scroll(direction: 1 | -1) {
		this.#element?.scrollBy({ top: direction * 0.8 * this.#element.clientHeight });
	}

	#lanes(): HTMLElement[] {
		return [...(this.#element?.querySelectorAll<HTMLElement>(':scope > article') ?? [])];
	}

	#update() {
		if (!this.#element) return;
		const frame = this.#element.getBoundingClientRect();
		const spans = this.#lanes().map((lane) => lane.getBoundingClientRect());
		const { above, below } = outOfSight(spans, frame.top, frame.bottom);
		this.above = above;
		this.below = below;
		const { scrollTop, clientHeight, scrollHeight } = this.#element;
		this.endHidden = scrollHeight - clientHeight - scrollTop > SLACK_PX;
	}
}

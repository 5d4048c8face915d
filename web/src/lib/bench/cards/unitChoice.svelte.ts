// The unit in which the window's sides are shown and typed: the same on every cut, and remembered.
import type { TransitionDocument } from '$lib/bench/transition.svelte';
import { capitalised } from '$lib/ui/numbers';
import { Remembered } from '$lib/ui/remembered.svelte';

export const WINDOW_UNITS = ['frames', 'seconds', 'beats'] as const;
export type WindowUnit = (typeof WINDOW_UNITS)[number];

class UnitChoice {
	readonly #chosen = new Remembered<string>('idle-shimmer-window-unit', 'frames');

	get chosen(): WindowUnit {
		return WINDOW_UNITS.find((each) => each === this.#chosen.value) ?? 'frames';
	}

	/** For a label: "Frames". */
	get name(): string {
		return capitalised(this.chosen);
	}

	choose(unit: WindowUnit) {
		this.#chosen.value = unit;
	}

	/** What of the unit one frame is; an edit without beats counts in frames instead. */
	perFrame({ rate, cut }: TransitionDocument): number {
		if (this.chosen === 'seconds') return 1 / rate;
		if (this.chosen === 'beats' && cut.beats_per_minute) return cut.beats_per_minute / 60 / rate;
		return 1;
	}
}

export const unitChoice = new UnitChoice();

// The unit in which the window's sides are shown and typed: the same on every cut, and remembered.
import type { Bench } from './bench.svelte';

const KEPT_AS = 'window-unit';
export const WINDOW_UNITS = ['frames', 'seconds', 'beats'] as const;
export type WindowUnitName = (typeof WINDOW_UNITS)[number];

class WindowUnit {
	chosen = $state<WindowUnitName>(
		WINDOW_UNITS.find((each) => each === globalThis.localStorage?.getItem(KEPT_AS)) ?? 'frames'
	);

	/** For a label: "Frames". */
	get name(): string {
		return this.chosen.charAt(0).toUpperCase() + this.chosen.slice(1);
	}

	choose(unit: WindowUnitName) {
		this.chosen = unit;
		localStorage.setItem(KEPT_AS, unit);
	}

	/** What of the unit one frame is; an edit without beats counts in frames instead. */
	perFrame({ rate, cut }: Bench): number {
		if (this.chosen === 'seconds') return 1 / rate;
		if (this.chosen === 'beats' && cut.beats_per_minute) return cut.beats_per_minute / 60 / rate;
		return 1;
	}
}

export const windowUnit = new WindowUnit();

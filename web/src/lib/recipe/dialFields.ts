// The dials of whole recipes as fields: the same on the bench and over several cuts.
import usual from '$lib/api/generated/usual.json';

export type DialField = {
	label: string;
	unit: string;
	/** Null where the recipes that it is about have different values. */
	value: number | null;
	low: number;
	high: number;
	step: number;
	scale?: number;
	rest?: number;
	/** Frames a second, of a field that counts frames. */
	rate?: number;
	onchange: (value: number) => void;
};

const PERCENT = { unit: '%', scale: 100, low: 0, step: 0.05 };

export const STRENGTH = { label: 'Strength', ...PERCENT, high: 4, rest: 1 };
export const DURATION = { label: 'Duration', unit: 'frames', low: 2, step: 2 };
export const SNAP = { label: 'Snap', ...PERCENT, high: 1 };
export const SHUTTER = { label: 'Shutter', unit: '°', low: 0, high: usual.max_shutter, step: 15 };

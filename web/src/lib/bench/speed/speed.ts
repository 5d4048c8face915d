// The speed ramps of a recipe, one for each side of the cut.
import usual from '$lib/api/generated/usual.json';
import type { TransitionDocument } from '$lib/bench/transition.svelte';
import type { ClipSide } from '$lib/bench/cutTypes';
import { mainValue, swellTo, withMainValue, type Envelope, type Recipe } from '$lib/recipe/recipe';

export type RetimeChoice = 'sampling' | 'in_edit' | 'sound';
/** A piece of the window in which the background is taken from another time. */
export type Slip = { from: number; to: number; offset: number };
export type Retime = { speed: Envelope; slips: Slip[]; join: number } & Record<
	RetimeChoice,
	string
>;

type Choice = { name: string; items: { value: string; name: string }[] };

export const CHOICES: Record<RetimeChoice, Choice> = {
	sampling: {
		name: 'Frame interpolation',
		items: [
			{ value: 'nearest', name: 'Nearest' },
			{ value: 'blend', name: 'Blend' },
			{ value: 'flow', name: 'Optical flow' }
		]
	},
	in_edit: {
		name: 'Cut times',
		items: [
			{ value: 'slip', name: 'Kept (clip slips)' },
			{ value: 'ripple', name: 'Moved (edit ripples)' }
		]
	},
	sound: {
		name: 'Sound',
		items: [
			{ value: 'follow', name: 'Follows the speed' },
			{ value: 'mute', name: 'Muted' }
		]
	}
};

/** The speed ramp of a side; speed 1 where it has none. */
export function retimeOf(recipe: Recipe, side: ClipSide): Retime {
	const ramps = (recipe.retime ?? {}) as Partial<Record<ClipSide, Partial<Retime>>>;
	return { ...(usual.retime as Retime), ...ramps[side] };
}

/** Change the ramp of a side. */
export function setRetime(
	transition: TransitionDocument,
	side: ClipSide,
	change: Partial<Retime>,
	label: string
) {
	const next = { ...retimeOf(transition.recipe, side), ...change };
	transition.change(label, (recipe) => ({
		...recipe,
		retime: { ...(recipe.retime as object), [side]: next }
	}));
}

/** The ramp with another speed at the cut; 1 removes it. */
export function withPeak(speed: Envelope, value: number): Envelope {
	if (value === 1) return 1;
	return typeof speed === 'object' ? withMainValue(speed, value) : swellTo(value);
}

/** The label in the history for a new speed at the cut. */
export function peakLabel(side: ClipSide, speed: Envelope, value: number): string {
	const percent = (each: number) => `${Math.round(each * 100)} %`;
	return `Speed of the ${side} clip ${percent(Number(mainValue(speed)))} → ${percent(value)}`;
}

// The accent of a recipe: a sound around the cut, and what changes when it is edited.
import usual from '$lib/api/generated/usual.json';
import { clamped } from '$lib/ui/numbers';
import type { Recipe } from './recipe';
import { countedTimes, isInFrames, placedTimes, statedTimes, type Window } from './times';

export type Accent = {
	/** A synthesised sound, or a clip of the user's. */
	sound: string | { clip: string };
	gain_db: number;
	start: number;
	peak: number;
	end: number;
	fade_in: number;
	fade_out: number;
	stretch: boolean;
	/** A filter's id, or `mix`. */
	follow?: string | null;
	seed: number;
	brightness: number;
	body: number;
};

const ACCENT_TIMES = ['start', 'peak', 'end'];
export const FARTHEST_U = 20;
export const GAIN_DB = usual.gain_db;
/** The shortest accent, in envelope time. */
const LEAST_U = 0.02;

export const USUAL_ACCENT = usual.accent as Accent;

export function accentOf(recipe: Recipe): Accent | null {
	const stated = recipe.accent as Partial<Accent> | null | undefined;
	return stated ? { ...USUAL_ACCENT, ...stated } : null;
}

/** The accent with its times as u. */
export function placedAccent(accent: Accent, window: Window): Accent {
	return placedTimes(accent, ACCENT_TIMES, window, FARTHEST_U);
}

/** An accent that was changed with times as u, those in frames again that the recipe states so. */
export function statedAccent(recipe: Recipe, changed: Accent, window: Window): Accent {
	return statedTimes(accentOf(recipe) ?? {}, changed, ACCENT_TIMES, window);
}

/** Whether times of the recipe's accent are in frames. */
export function isAccentInFrames(recipe: Recipe): boolean {
	const accent = accentOf(recipe);
	return accent !== null && [accent.start, accent.peak, accent.end].some(isInFrames);
}

/** The accent with all its times in frames, or all as u. */
export function countedAccent(accent: Accent, window: Window, inFrames: boolean): Accent {
	return countedTimes(accent, ACCENT_TIMES, window, inFrames);
}

/** The accent with its start, peak or end at an envelope time, kept in order. */
export function withTime(accent: Accent, which: 'start' | 'peak' | 'end', u: number): Accent {
	const limits = {
		start: [-FARTHEST_U, Math.min(accent.peak, accent.end - LEAST_U)],
		peak: [accent.start, accent.end],
		end: [Math.max(accent.peak, accent.start + LEAST_U), FARTHEST_U]
	}[which] as [number, number];
	return { ...accent, [which]: Number(clamped(u, ...limits).toFixed(4)) };
}

/** Where the fade of a half ends, in envelope time. */
export function fadeEnd(accent: Accent, half: 'fade_in' | 'fade_out'): number {
	return half === 'fade_in'
		? accent.start + accent.fade_in * (accent.peak - accent.start)
		: accent.end - accent.fade_out * (accent.end - accent.peak);
}

/** The accent whose fade ends at an envelope time. */
export function withFadeEnd(accent: Accent, half: 'fade_in' | 'fade_out', u: number): Accent {
	const [from, to] = half === 'fade_in' ? [accent.start, accent.peak] : [accent.end, accent.peak];
	const share = from === to ? 0 : (u - from) / (to - from);
	return { ...accent, [half]: Number(clamped(share, 0, 1).toFixed(3)) };
}

/** The recipe whose accent follows only what is there. */
export function withKnownAccent(recipe: Recipe): Recipe {
	const accent = accentOf(recipe);
	if (!accent?.follow || accent.follow === 'mix') return recipe;
	if (recipe.filters.some((each) => each.id === accent.follow)) return recipe;
	return { ...recipe, accent: { ...accent, follow: null } };
}

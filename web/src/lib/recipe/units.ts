// How a parameter's value is shown: scale, unit, pixels of this edit.
import type { Parameter } from '$lib/api/client';
import { rounded, shownNumber } from '$lib/ui/numbers';
import { mainValue, movesOf, type Envelope } from '$lib/recipe/recipe';

export type Shown = { scale: number; unit: string; step: number };

const SHOWN: Record<Parameter['unit'], { scale: number; unit: string }> = {
	height: { scale: 100, unit: '% h' },
	width: { scale: 100, unit: '% w' },
	frames: { scale: 1, unit: 'frames' },
	deg: { scale: 1, unit: '°' },
	turns: { scale: 1, unit: 'turns' },
	ratio: { scale: 100, unit: '%' },
	stops: { scale: 1, unit: 'stops' },
	Hz: { scale: 1, unit: 'Hz' },
	count: { scale: 1, unit: '' },
	none: { scale: 1, unit: '' }
};

export function shownAs(parameter: Parameter): Shown {
	return { ...SHOWN[parameter.unit], step: parameter.step ?? 0.01 };
}

/** A length in pixels of this edit, or '' for what is no length. */
export function inPixels(
	parameter: Parameter,
	value: number,
	width: number,
	height: number
): string {
	const across = parameter.name === 'x' || parameter.unit === 'width';
	if (!['height', 'width', 'frames'].includes(parameter.unit)) return '';
	return `${Math.round(value * (across ? width : height))} px`;
}

/** The envelope's main value as text with its unit: "6 % h". */
export function valueText(parameter: Parameter, envelope: Envelope): string {
	if (typeof envelope === 'string') return envelope;
	if (typeof envelope === 'boolean') return envelope ? 'on' : 'off';
	if (movesOf(envelope) === 'follow') return `follows, ${String(mainValue(envelope))}°`;
	const { scale, unit, step } = shownAs(parameter);
	const value = mainValue(envelope);
	if (Array.isArray(value)) return value.map((part) => rounded(part, 0.01)).join(', ');
	const text = shownNumber(value * scale, (step * scale) / 10);
	const counted = Math.abs(value * scale) === 1 ? unit.replace(/s$/, '') : unit;
	const joined = unit === '°' ? `${text}°` : `${text} ${counted}`;
	return movesOf(envelope) === 'travel' && value > 0 ? `+${joined}`.trim() : joined.trim();
}

// Small sums on numbers that are shown.

/** `value` rounded to a multiple of `step`, free of binary dust. */
export function rounded(value: number, step: number): number {
	if (!(step > 0)) return value;
	const decimals = Math.min(10, Math.max(0, Math.ceil(-Math.log10(step)) + 1));
	return Number((Math.round(value / step) * step).toFixed(decimals));
}

/** A number as text: to at least the decimals of `step`, and to five digits. */
export function shownNumber(value: number, step: number): string {
	const whole = value === 0 ? 0 : Math.floor(Math.log10(Math.abs(value)));
	const decimals = Math.max(Math.ceil(-Math.log10(step)), 4 - whole, 0);
	return String(Number(value.toFixed(Math.min(decimals, 12))));
}

export function clamped(value: number, low: number, high: number): number {
	return Math.min(Math.max(value, low), high);
}

/** The text with a capital first letter. */
export function capitalised(text: string): string {
	return text.charAt(0).toUpperCase() + text.slice(1);
}

/** A count with its noun: "1 cut", "7 cuts". */
export function counted(count: number, noun: string): string {
	return `${count} ${noun}${count === 1 ? '' : 's'}`;
}

/** A place in a row: 1st, 2nd, 3rd, 4th, 11th, 22nd. */
export function ordinal(place: number): string {
	const ends: Partial<Record<Intl.LDMLPluralRule, string>> = { one: 'st', two: 'nd', few: 'rd' };
	return place + (ends[new Intl.PluralRules('en', { type: 'ordinal' }).select(place)] ?? 'th');
}

/** A size in bytes as people read it: 640 kB, 1.5 GB. */
export function sizeText(bytes: number): string {
	const units = ['bytes', 'kB', 'MB', 'GB', 'TB'];
	const place = bytes < 1000 ? 0 : Math.min(4, Math.floor(Math.log10(bytes) / 3));
	return `${Number((bytes / 1000 ** place).toPrecision(3))} ${units[place]}`;
}

/** A frame number counted from the cut: −1, 0, +1. */
export function fromCut(offset: number): string {
	return offset < 0 ? `−${-offset}` : offset > 0 ? `+${offset}` : '0';
}

/** Whether SMPTE ST 12-1 has a drop-frame count for a rate: 29.97 and 59.94 frames a second. */
export function dropsFrames(rate: number): boolean {
	return [30, 60].some((base) => Math.abs(rate - (base * 1000) / 1001) < 1e-3);
}

/**
 * SMPTE ST 12-1 timecode of a frame counted from 0. At 29.97 and 59.94 it is drop-frame, written
 * with a semicolon: two or four numbers are left out in every minute but the tenth.
 */
export function timecode(frame: number, rate: number): string {
	const base = Math.round(rate);
	const dropped = dropsFrames(rate) ? base / 15 : 0;
	const tens = Math.floor(frame / (600 * base - 9 * dropped));
	const rest = frame % (600 * base - 9 * dropped);
	const minutes = Math.max(0, Math.floor((rest - dropped) / (60 * base - dropped)));
	const counted = frame + dropped * (9 * tens + minutes);
	const seconds = Math.floor(counted / base);
	const clock = [Math.floor(seconds / 3600), Math.floor(seconds / 60) % 60, seconds % 60];
	const two = (part: number) => String(part).padStart(2, '0');
	return `${clock.map(two).join(':')}${dropped ? ';' : ':'}${two(counted % base)}`;
}

/** The frames of a timecode of two to four parts, the last of which are frames; the inverse of `timecode`. */
export function framesOf(code: string, rate: number): number {
	const parts = code.split(/[:;]/).map(Number);
	const [frames = 0, seconds = 0, minutes = 0, hours = 0] = parts.reverse();
	const base = Math.round(rate);
	const passed = 60 * hours + minutes;
	const dropped = dropsFrames(rate) ? (base / 15) * (passed - Math.floor(passed / 10)) : 0;
	return (60 * passed + seconds) * base + frames - dropped;
}

/** "25" or "30000/1001" in frames a second. */
export function rateNumber(text: string): number {
	const [over, under = '1'] = text.split('/');
	return Number(over) / Number(under);
}

/** A rate as an editor writes it: 25, 29.97. */
export function rateText(text: string): string {
	return String(Number(rateNumber(text).toFixed(3)));
}

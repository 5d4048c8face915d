// Small sums on numbers that are shown.

/** `value` rounded to a multiple of `step`, free of binary dust. */
export function rounded(value: number, step: number): number {
	if (!(step > 0)) return value;
	const decimals = Math.min(10, Math.max(0, Math.ceil(-Math.log10(step)) + 1));
	return Number((Math.round(value / step) * step).toFixed(decimals));
}

export function clamped(value: number, low: number, high: number): number {
	return Math.min(Math.max(value, low), high);
}

/** A count with its noun: "1 cut", "7 cuts". */
export function counted(count: number, noun: string): string {
	return `${count} ${noun}${count === 1 ? '' : 's'}`;
}

/** A frame number counted from the cut: −1, 0, +1. */
export function fromCut(offset: number): string {
	return offset < 0 ? `−${-offset}` : offset > 0 ? `+${offset}` : '0';
}

/** SMPTE ST 12-1 non-drop timecode of a frame counted from 0. */
export function timecode(frame: number, rate: number): string {
	const base = Math.round(rate);
	const seconds = Math.floor(frame / base);
	const parts = [
		Math.floor(seconds / 3600),
		Math.floor(seconds / 60) % 60,
		seconds % 60,
		frame % base
	];
	return parts.map((part) => String(part).padStart(2, '0')).join(':');
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

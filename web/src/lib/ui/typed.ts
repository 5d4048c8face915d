// What is typed into a field of numbers: a number, a small sum, or a time.
import { framesOf } from './numbers';

/** The number that a text means, or why it cannot be read. */
export type Typed = { value: number } | { problem: string };

/**
 * Read a text typed over a number that was `now`: `30/2` is a sum, `+5`, `*1.5` and `/2` go on from `now`,
 * `-5` is a number. With a `rate` a time such as `1:12` (seconds and frames) is counted in frames.
 */
export function typedNumber(text: string, now: number, rate?: number): Typed {
	const plain = text.trim().replaceAll(',', '.').replaceAll('−', '-').replaceAll('×', '*');
	if (rate && /^\d+([:;]\d+){1,3}$/.test(plain)) return { value: framesOf(plain, rate) };
	const value = sumOf(/^[+*/]/.test(plain) ? `${now}${plain}` : plain);
	if (value === null) {
		const time = rate ? ', or a time such as 1:12' : '';
		return { problem: `Type a number, a sum such as 30/2, +5 or *1.5${time}` };
	}
	return Number.isFinite(value) ? { value } : { problem: 'Nothing can be divided by 0' };
}

const TOKEN = /\d+\.?\d*(?:e[+-]?\d+)?|\.\d+|[-+*/()]/gi;

/** The value of a sum with + - * / and brackets; null where it is none. */
function sumOf(text: string): number | null {
	const tokens = text.match(TOKEN) ?? [];
	if (tokens.join('') !== text.replaceAll(/\s/g, '')) return null;
	let at = 0;

	function sum(): number {
		let value = product();
		while (tokens[at] === '+' || tokens[at] === '-')
			value += tokens[at++] === '+' ? product() : -product();
		return value;
	}
	function product(): number {
		let value = part();
		while (tokens[at] === '*' || tokens[at] === '/')
			value *= tokens[at++] === '*' ? part() : 1 / part();
		return value;
	}
	function part(): number {
		const token = tokens[at++];
		if (token === '-') return -part();
		if (token === '(') {
			const value = sum();
			return tokens[at++] === ')' ? value : NaN;
		}
		return Number(token);
	}

	const value = sum();
	return at < tokens.length || Number.isNaN(value) ? null : value;
}

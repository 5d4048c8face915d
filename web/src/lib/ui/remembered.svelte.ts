// A choice that the browser remembers.
import { browser } from '$app/environment';

export class Remembered<T extends string | number | boolean> {
	#value = $state() as T;

	constructor(
		readonly key: string,
		usual: T
	) {
		this.#value = browser ? parsed(localStorage.getItem(key), usual) : usual;
	}

	get value(): T {
		return this.#value;
	}

	set value(next: T) {
		this.#value = next;
		try {
			localStorage.setItem(this.key, JSON.stringify(next));
		} catch {
			// Storage is full or blocked: it holds until the page is left.
		}
	}
}

function parsed<T>(text: string | null, usual: T): T {
	try {
		const kept = JSON.parse(text ?? 'null') as T;
		return typeof kept === typeof usual ? kept : usual;
	} catch {
		return usual;
	}
}

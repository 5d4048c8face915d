// A choice that the browser remembers.
import { browser } from '$app/environment';

export class Remembered<T extends string | number | boolean> {
	#value = $state() as T;

	constructor(
		readonly key: string,
		usual: T
	) {
		this.#value = browser ? stored(key, usual) : usual;
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

function stored<T>(key: string, usual: T): T {
	try {
		const kept = JSON.parse(localStorage.getItem(key) ?? 'null') as T;
		return typeof kept === typeof usual ? kept : usual;
	} catch {
		// Storage is blocked, or holds something else.
		return usual;
	}
}

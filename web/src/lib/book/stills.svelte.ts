// What every recipe makes of the frame at a cut: several stills come in one picture.
import type { Book } from '$lib/api/client';

/** The picture that a still is in, and its place among the stills there. */
export type Still = { src: string; place: number; among: number };

export class Stills {
	of = $state.raw<Record<string, Still>>({});
	#asked = '';

	/** Load the stills of a state of the cut, those at the top of the book first. */
	async load(cutId: string, version: string, book: Book) {
		const keys = [...book.own, ...book.built_in]
			.filter((each) => !each.problem)
			.map(({ key }) => key);
		const asked = [cutId, version, ...keys].join();
		if (asked === this.#asked) return;
		this.#asked = asked;
		for (let first = 0; first < keys.length; first += book.most_stills) {
			const together = keys.slice(first, first + book.most_stills);
			const query = together.map((key) => `key=${key}`).join('&');
			const src = `/api/cuts/${cutId}/stills?v=${encodeURIComponent(version)}&${query}`;
			const there = await loaded(src);
			if (this.#asked !== asked) return;
			if (!there) continue;
			const among = together.length;
			const found = together.map((key, place): [string, Still] => [key, { src, place, among }]);
			this.of = { ...this.of, ...Object.fromEntries<Still>(found) };
		}
	}
}

async function loaded(src: string): Promise<boolean> {
	const image = new Image();
	image.src = src;
	try {
		await image.decode();
		return true;
	} catch {
		return false;
	}
}

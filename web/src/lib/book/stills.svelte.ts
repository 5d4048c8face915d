// What every recipe makes of the frame at a cut: several stills come in one picture.
/** The picture that a still is in, and its place among the stills there. */
export type Still = { src: string; place: number; among: number };

export class Stills {
	of = $state.raw<Record<string, Still>>({});
	#asked = '';

	/** Load the stills of a state of the cut in the order of `keys`, at most `most` in one picture. */
	async load(cutId: string, version: string, keys: string[], most: number) {
		const asked = [cutId, version, ...keys].join();
		if (asked === this.#asked) return;
		this.#asked = asked;
		for (let first = 0; first < keys.length; first += most) {
			const together = keys.slice(first, first + most);
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

import { describe, expect, it } from 'vitest';
import { batches, gapsIn } from './sequences';

const files = (...names: string[]) => names.map((name) => new File([], name));
const grouped = (...names: string[]) =>
	batches(files(...names)).map(({ name, files }) => [name, files.map((each) => each.name)]);

describe('numbered pictures', () => {
	it('are one clip, in the order of their numbers', () => {
		expect(grouped('sail_10.png', 'sail_9.png', 'dusk.mp4', 'sail_11.png')).toEqual([
			['sail', ['sail_9.png', 'sail_10.png', 'sail_11.png']],
			['dusk.mp4', ['dusk.mp4']]
		]);
	});

	it('are stills where there are only two of them', () => {
		expect(grouped('sail1.png', 'sail2.png')).toEqual([
			['sail1.png', ['sail1.png']],
			['sail2.png', ['sail2.png']]
		]);
	});

	it('say which numbers are missing', () => {
		expect(gapsIn(files('a1.png', 'a2.png', 'a4.png', 'a8.png'))).toBe('3, 5–7');
		expect(gapsIn(files('a1.png', 'a2.png'))).toBe('');
	});
});

import { describe, expect, it, vi } from 'vitest';
import { begin, end } from './speaker';

describe('what is heard', () => {
	it('is one player: the next one silences the one before', () => {
		const [loop, film] = [{ silence: vi.fn() }, { silence: vi.fn() }];
		begin(loop);
		begin(film);
		expect(loop.silence).toHaveBeenCalledOnce();
		expect(film.silence).not.toHaveBeenCalled();
		end(film);
	});
	it('silences nobody who has ended, and not itself', () => {
		const [loop, film] = [{ silence: vi.fn() }, { silence: vi.fn() }];
		begin(loop);
		begin(loop);
		end(loop);
		begin(film);
		expect(loop.silence).not.toHaveBeenCalled();
		end(film);
	});
});

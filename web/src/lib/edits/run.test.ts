import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { BookRecipe, CutSummary, Edit } from '$lib/api/client';
import { toast } from '$lib/ui/toast.svelte';
import { answered, refused } from '$lib/testing/answers';
import { cutName, Run } from './run.svelte';

type Body = Record<string, unknown> & { by: number; before: number; after: number };

const LENGTHS = [100, 50, 80];

/** A server with an edit of three clips of 25 frames a second, 120 beats a minute. */
class Server {
	cuts = [0, 1].map((n) => ({
		id: `cut-${n}`,
		number: n + 1,
		version: 1,
		before: 5,
		after: 5,
		recipe_name: 'Whip left',
		filter_count: 2
	})) as unknown as CutSummary[];
	lengths = [...LENGTHS];
	asked: string[] = [];
	under = 0;
	refuses = '';

	get edit(): Edit {
		const placed = this.lengths.map((length, n) => ({
			id: `placed-${n}`,
			in_frame: 30,
			out_frame: 30 + length,
			clip: { frame_count: 200 }
		}));
		const cuts = this.cuts.map((cut) => ({ ...cut }));
		return {
			id: 'edit',
			rate: '25',
			beats_per_minute: 120,
			beat_offset_s: 0,
			placed,
			cuts
		} as unknown as Edit;
	}

	async answer(method: string, path: string, cutId: string | undefined, body: Body) {
		this.under += 1;
		expect(this.under, 'one request at a time').toBe(1);
		await Promise.resolve();
		this.under -= 1;
		this.asked.push(`${method} ${path.split('/').at(-1)}`);
		if (this.refuses && path.endsWith(this.refuses))
			return refused(422, 'the clip has no more frames');
		const n = this.cuts.findIndex(({ id }) => id === cutId);
		const cut = this.cuts[n];
		if (path.endsWith('/move')) {
			this.lengths[n] = (this.lengths[n] ?? 0) + body.by;
			this.lengths[n + 1] = (this.lengths[n + 1] ?? 0) - body.by;
		} else if (method === 'PUT' && cut)
			Object.assign(cut, { before: body.before, after: body.after, version: cut.version + 1 });
		return answered(cut && method === 'GET' ? { ...cut, recipe: {} } : this.edit);
	}
}

let server: Server;
vi.mock('$lib/api/client', async (original) => {
	type Options = { params?: { path?: { cut_id?: string } }; body?: Body };
	const asking = (method: string) => (path: string, options: Options) =>
		server.answer(method, path, options.params?.path?.cut_id, options.body ?? ({} as Body));
	const methods = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE'];
	return {
		...(await original<object>()),
		api: Object.fromEntries(methods.map((method) => [method, asking(method)]))
	};
});

let run: Run;
beforeEach(() => {
	server = new Server();
	toast.list = [];
	run = new Run(server.edit);
});

describe('the run', () => {
	it('knows where each clip begins', () => {
		expect(run.starts).toEqual([0, 100, 150]);
	});
	it('drags a cut and the ends of its window, one after another', async () => {
		void run.shift('cut-0', 'seam', 3);
		void run.shift('cut-0', 'before', -2);
		await run.shift('cut-0', 'after', 4);
		expect(run.starts).toEqual([0, 103, 150]);
		expect(run.edit.cuts[0]).toMatchObject({ before: 7, after: 9 });
	});
	it('holds a window where the neighbouring one begins', async () => {
		await run.shift('cut-0', 'after', 500);
		const [one, other] = run.edit.cuts;
		expect((one?.after ?? 0) + (other?.before ?? 0)).toBe(50);
	});
	it('shows what the server refuses, and the state of the server', async () => {
		server.refuses = 'move';
		await run.shift('cut-0', 'seam', 3);
		expect(toast.list.map(({ text }) => text)).toEqual(['The clip has no more frames.']);
		expect(run.starts).toEqual([0, 100, 150]);
	});
	it('knows which cuts lie off the beat, and moves the chosen ones', async () => {
		// A beat is 12.5 frames: cut 1 at 100 lies on one, cut 2 at 150 as well.
		expect(run.offBeat).toEqual([]);
		await run.shift('cut-0', 'seam', 4);
		expect(run.offBeat.map(({ cut, by }) => [cut.id, by])).toEqual([['cut-0', -4]]);
		run.toggle('cut-1');
		expect(run.offBeat).toEqual([]);
		run.toggle('cut-1');
		await run.snapToBeats();
		expect(run.starts).toEqual([0, 100, 150]);
		expect(toast.list.at(-1)?.text).toContain('Moved 1 cut');
	});
	it('puts a recipe on the chosen cuts, with a way back', async () => {
		run.toggle('cut-1');
		const entry = { name: 'Soft focus', before: 4, after: 4, recipe: {} } as BookRecipe;
		await run.apply(entry, '');
		const message = toast.list.at(-1);
		expect(message?.text).toBe('Applied “Soft focus” to 1 cut');
		message?.action?.run();
		await vi.waitFor(() => expect(server.asked.at(-1)).toBe('POST undo'));
	});
	it('forgets chosen cuts that are gone', async () => {
		run.toggle('cut-0');
		run.toggle('cut-1');
		server.cuts = server.cuts.slice(1);
		await run.undo();
		expect(run.chosen).toEqual(['cut-1']);
	});
	it('calls a cut without filters and name a hard cut', () => {
		const bare = { recipe_name: 'Untitled', filter_count: 0 } as CutSummary;
		expect(cutName(bare)).toBe('Hard cut');
		expect(cutName({ ...bare, filter_count: 1 })).toBe('Untitled');
	});
});

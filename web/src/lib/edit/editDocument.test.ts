import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { BookRecipe, CutSummary, Edit } from '$lib/api/client';
import { toast } from '$lib/ui/toast.svelte';
import { answered, refused } from '$lib/testing/answers';
import { cutName, placedAt } from './editChanges';
import { EditDocument } from './editDocument.svelte';
import { applyRecipe, offBeat, snapToBeats } from './editSteps';

type Body = Record<string, unknown> & {
	before: number;
	after: number;
	moves: { cut: string; by: number }[];
};
type Options = {
	params: {
		path: { cut_id?: string; placed_id?: string };
		query?: { version: number };
	};
	body?: Body;
};

const LENGTHS = [100, 50, 80];

/** A server with an edit of three clips of 25 frames a second, 120 beats a minute. */
class Server {
	version = 1;
	name = 'Harbour';
	cuts = [0, 1].map((n) => ({
		id: `cut-${n}`,
		version: 1,
		before: 5,
		after: 5,
		recipe_name: 'Whip left',
		filter_count: 2
	})) as unknown as CutSummary[];
	ends = LENGTHS.map((length) => ({ in_frame: 30, out_frame: 30 + length }));
	asked: string[] = [];
	under = 0;
	refuses = '';
	reachable = true;

	get edit(): Edit {
		const placed = this.ends.map((ends, n) => ({
			id: `placed-${n}`,
			name: `Clip ${n}`,
			...ends,
			first_shown: ends.in_frame,
			end_shown: ends.out_frame,
			edit_frames: ends.out_frame - ends.in_frame,
			room_before: 30,
			spare_before: 30,
			room_after: 70,
			spare_after: 70,
			muted: false,
			gain_db: 0,
			crossfade: 0,
			clip: { frame_count: 200 }
		}));
		return {
			id: 'edit',
			name: this.name,
			version: this.version,
			rate: '25',
			undo_label: this.asked.at(-1),
			beats_per_minute: 120,
			beat_offset_s: 0,
			placed,
			cuts: this.cuts.map((cut) => ({ ...cut }))
		} as unknown as Edit;
	}

	async answer(method: string, path: string, { params, body }: Options) {
		this.under += 1;
		expect(this.under, 'one request at a time').toBe(1);
		await Promise.resolve();
		this.under -= 1;
		if (!this.reachable) throw new TypeError('no connection');
		if (path.endsWith('/beats')) return answered({ frames: [87, 100, 112, 125, 137, 150, 162] });
		if (method === 'GET') return answered(this.edit);
		if (params.query?.version !== this.version) return refused(409, 'changed elsewhere');
		this.asked.push(`${method} ${path.split('/').at(-1)}`);
		if (this.refuses && path.endsWith(this.refuses))
			return refused(422, 'the clip has no more frames');
		this.version += 1;
		if (path.endsWith('/move')) {
			for (const { cut, by } of body?.moves ?? []) {
				const n = this.cuts.findIndex(({ id }) => id === cut);
				(this.ends[n] as { out_frame: number }).out_frame += by;
				(this.ends[n + 1] as { in_frame: number }).in_frame += by;
			}
			return answered({ edit: this.edit, stayed: [] });
		}
		if (path.endsWith('/to-beats')) return answered({ edit: this.edit, stayed: [] });
		const cut = this.cuts.find(({ id }) => id === params.path.cut_id);
		if (cut) Object.assign(cut, { ...body, version: cut.version + 1 });
		const placed = this.ends[Number(params.path.placed_id?.at(-1) ?? -1)];
		if (placed && method === 'PATCH') Object.assign(placed, body);
		if (body && 'name' in body) this.name = body.name as string;
		return answered(this.edit);
	}
}

let server: Server;
vi.mock('$lib/api/client', async (original) => {
	const asking = (method: string) => (path: string, options: Options) =>
		server.answer(method, path, options);
	const methods = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE'];
	return {
		...(await original<object>()),
		api: Object.fromEntries(methods.map((method) => [method, asking(method)]))
	};
});

const saved = () => editDocument.saver.flush();

let editDocument: EditDocument;
beforeEach(() => {
	server = new Server();
	toast.list = [];
	editDocument = new EditDocument(server.edit);
});

describe('the run', () => {
	it('knows where each clip begins', () => {
		expect(editDocument.starts).toEqual([0, 100, 150]);
	});
	it('knows which frame of which clip lies at a frame of the edit', () => {
		const found = (frame: number) => {
			const { placed, at } = placedAt(server.edit, frame) ?? {};
			return [placed?.id, at];
		};
		expect([0, 99, 100, 149, 150].map(found)).toEqual([
			['placed-0', 30],
			['placed-0', 129],
			['placed-1', 30],
			['placed-1', 79],
			['placed-2', 30]
		]);
		expect(placedAt(server.edit, 230)).toBeUndefined();
	});
	it('moves a cut and the ends of its window, shown at once and saved in order', async () => {
		editDocument.shift('cut-0', 'seam', 3);
		editDocument.shift('cut-0', 'before', -2);
		editDocument.shift('cut-0', 'after', 4);
		expect(editDocument.starts).toEqual([0, 103, 150]);
		expect(editDocument.edit.cuts[0]).toMatchObject({ before: 7, after: 9 });
		await saved();
		expect(server.asked).toEqual(['POST move', 'PUT window']);
		expect(server.edit.cuts[0]).toMatchObject({ before: 7, after: 9 });
		expect(editDocument.starts).toEqual([0, 103, 150]);
	});
	it('sends repeated steps as one change while another is on its way', async () => {
		for (let n = 0; n < 5; n += 1) editDocument.shift('cut-0', 'seam', 1);
		await saved();
		expect(server.asked).toEqual(['POST move']);
		const going = saved();
		editDocument.shift('cut-0', 'seam', 1);
		editDocument.shift('cut-0', 'seam', 1);
		await going;
		await saved();
		expect(editDocument.starts).toEqual([0, 107, 150]);
		expect(server.ends[0]?.out_frame).toBe(137);
	});
	it('limits a window where the neighbouring one begins', () => {
		editDocument.shift('cut-0', 'after', 500);
		const [one, other] = editDocument.edit.cuts;
		expect((one?.after ?? 0) + (other?.before ?? 0)).toBe(50);
	});
	it('shows what the server refuses, and the state of the server', async () => {
		server.refuses = 'move';
		editDocument.shift('cut-0', 'seam', 3);
		editDocument.change({ name: 'Night tide' });
		await saved();
		expect(toast.list.map(({ text }) => text)).toEqual(['The clip has no more frames.']);
		expect(editDocument.starts).toEqual([0, 100, 150]);
		expect(server.name).toBe('Night tide');
		expect(editDocument.saver.state).toBe('saved');
	});
	it('keeps what could not be sent, and sends it when the server is back', async () => {
		vi.useFakeTimers();
		server.reachable = false;
		const [first] = editDocument.edit.placed;
		if (first) editDocument.changePlaced(first, { out_frame: 120 });
		await vi.advanceTimersByTimeAsync(500);
		expect(editDocument.saver.state).toBe('failed');
		expect(editDocument.edit.placed[0]?.out_frame).toBe(120);
		if (first) editDocument.changePlaced(first, { in_frame: 40 });
		server.reachable = true;
		await vi.runAllTimersAsync();
		vi.useRealTimers();
		expect(server.ends[0]).toMatchObject({ in_frame: 40, out_frame: 120 });
		expect(editDocument.saver.state).toBe('saved');
	});
	it('repeats a change on an edit that was changed elsewhere, unless that was changed itself', async () => {
		server.version = 4;
		server.name = 'Renamed there';
		const [first] = editDocument.edit.placed;
		if (first) editDocument.changePlaced(first, { out_frame: 120 });
		await saved();
		expect(server.ends[0]?.out_frame).toBe(120);
		expect(editDocument.edit.name).toBe('Renamed there');

		server.version = 9;
		server.ends[0] = { in_frame: 33, out_frame: 99 };
		const [again] = editDocument.edit.placed;
		if (again) editDocument.changePlaced(again, { out_frame: 125 });
		await saved();
		expect(server.ends[0]).toEqual({ in_frame: 33, out_frame: 99 });
		expect(editDocument.edit.placed[0]).toMatchObject({ in_frame: 33, out_frame: 99 });
		expect(toast.list.at(-1)?.text).toContain('Clip 0 was changed in another window');
		toast.list.at(-1)?.action?.run();
		await saved();
		expect(server.ends[0]).toMatchObject({ in_frame: 33, out_frame: 125 });
	});
	it('moves the selected cuts in one request, each as far as there is room', async () => {
		editDocument.selection.toggle('cut-0');
		editDocument.selection.toggle('cut-1');
		for (let n = 0; n < 3; n += 1) editDocument.shiftChosen(2);
		expect(editDocument.starts).toEqual([0, 106, 156]);
		await saved();
		expect(server.asked.filter((each) => each === 'POST move')).toHaveLength(1);
		expect(editDocument.starts).toEqual([0, 106, 156]);
		editDocument.shiftChosen(-100);
		await saved();
		expect(server.asked.filter((each) => each === 'POST move')).toHaveLength(2);
		expect(editDocument.edit.placed.every((each) => each.edit_frames > 0)).toBe(true);
	});
	it('knows which cuts lie off the beat, and moves the chosen ones', async () => {
		await editDocument.readBeats();
		// Cut 1 at 100 lies on a beat, cut 2 at 150 as well.
		expect(offBeat(editDocument)).toEqual([]);
		editDocument.shift('cut-0', 'seam', 4);
		expect(offBeat(editDocument).map(({ id }) => id)).toEqual(['cut-0']);
		editDocument.selection.toggle('cut-1');
		expect(offBeat(editDocument)).toEqual([]);
		editDocument.selection.toggle('cut-1');
		await snapToBeats(editDocument);
		expect(server.asked.at(-1)).toBe('POST to-beats');
		expect(toast.list.at(-1)?.text).toContain('Moved 1 cut');
	});
	it('puts a recipe on the chosen cuts, with a way back', async () => {
		editDocument.selection.toggle('cut-1');
		const entry = { name: 'Soft focus', before: 4, after: 4, recipe: {} } as BookRecipe;
		await applyRecipe(editDocument, entry, '');
		const message = toast.list.at(-1);
		expect(message?.text).toBe('Applied “Soft focus” to 1 cut');
		message?.action?.run();
		await vi.waitFor(() => expect(server.asked.at(-1)).toBe('POST undo'));
	});
	it('forgets chosen cuts that are gone', async () => {
		editDocument.selection.toggle('cut-0');
		editDocument.selection.toggle('cut-1');
		server.cuts = server.cuts.slice(1);
		await editDocument.undo();
		expect(editDocument.selection.ids).toEqual(['cut-1']);
	});
	it('chooses everything from the cut that was chosen last', () => {
		const { selection } = editDocument;
		const all = editDocument.edit.cuts.map(({ id }) => id);
		selection.toggle(all.at(-1) as string, true);
		expect(selection.ids).toEqual([all.at(-1)]);
		selection.toggle(all[0] as string, true);
		expect([...selection.ids].sort()).toEqual([...all].sort());
		selection.toggle(all[0] as string);
		expect(selection.ids).not.toContain(all[0]);
	});
	it('calls a cut without filters and name a hard cut', () => {
		const bare = { recipe_name: 'Untitled', filter_count: 0 } as CutSummary;
		expect(cutName(bare)).toBe('Hard cut');
		expect(cutName({ ...bare, filter_count: 1 })).toBe('Untitled');
	});
});

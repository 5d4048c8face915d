import { beforeEach, expect, it, vi } from 'vitest';
import { api, type Edit } from '$lib/api/client';
import { answered } from '$lib/testing/answers';
import { CutDials } from './cutDials.svelte';
import { EditDocument } from './editDocument.svelte';

type Asked = { body: Record<string, unknown> & { cuts: { version: number }[] } };

let edit: Edit;
let asked: Asked['body'][];
let editDocument: EditDocument;
let dials: CutDials;

beforeEach(() => {
	asked = [];
	const cuts = [4, 4, 6].map((side, n) => ({
		id: `cut-${n}`,
		version: 1,
		before: side,
		after: side
	}));
	edit = { id: 'edit', rate: '25', version: 1, cuts, placed: [] } as unknown as Edit;
	vi.spyOn(api, 'POST').mockImplementation(((_: string, { body }: Asked) => {
		asked.push(body);
		const grown = edit.cuts.map((cut) => ({ ...cut, version: cut.version + 1 }));
		edit = { ...edit, version: edit.version + 1, cuts: grown };
		return Promise.resolve(answered({ edit, notes: [] }));
	}) as never);
	editDocument = new EditDocument(edit);
	dials = new CutDials(editDocument);
	editDocument.selection.toggle('cut-0');
	editDocument.selection.toggle('cut-1');
});

it('puts what is turned on further into one step, from where the dial began', async () => {
	await dials.dial({ strength: 1.2 });
	await dials.dial({ strength: 1.5 });
	expect(asked.map(({ strength, again }) => [strength, again])).toEqual([
		[1.2, false],
		[1.5, true]
	]);
	expect(asked[1]?.cuts.map(({ version }) => version)).toEqual([2, 2]);
	expect(dials.strength).toBe(1.5);
});

it('begins anew with another dial, other cuts, or after another change', async () => {
	await dials.dial({ strength: 1.2 });
	await dials.dial({ snap: 0.4 });
	await dials.dial({ strength: 2 });
	editDocument.selection.toggle('cut-2');
	expect(dials.strength).toBe(1);
	await dials.dial({ strength: 0.5 });
	editDocument.take({ ...edit, version: 99 });
	await dials.dial({ strength: 0.6 });
	expect(asked.some(({ again }) => again)).toBe(false);
});

it('does flips and turns once each time', async () => {
	await dials.dial({ turn: 90 });
	await dials.dial({ turn: 90 });
	await dials.dial({ flip: 'vertical' });
	expect(asked.map(({ again }) => again)).toEqual([false, false, false]);
});

it('holds the end frames of the cuts that lack spare frames, and of no other', async () => {
	expect(dials.lacking).toEqual([]);
	const worst = { id: 'spare_frames', status: 'failed', message: '', accepted: {} } as const;
	const cuts = edit.cuts.map((cut, n) => (n === 1 ? { ...cut, worst } : cut));
	editDocument.take({ ...edit, cuts });
	await dials.holdFrames();
	expect(asked[0]).toMatchObject({ cuts: [{ cut: 'cut-1' }], hold_frames: true });
});

it('shows a duration where the selected windows have one', () => {
	expect(dials.duration).toBe(8);
	editDocument.selection.toggle('cut-2');
	expect(dials.duration).toBeNull();
});

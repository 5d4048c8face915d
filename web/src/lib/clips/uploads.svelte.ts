// The upload queue: one file after another, each with its progress and result.
import type { Clip } from '$lib/api/client';
import { upload, type Upload } from '$lib/api/upload';
import { batches, gapsIn, type Batch } from './sequences';

export type Incoming = {
	id: number;
	name: string;
	bytes: number;
	/** A note on a PNG sequence. */
	note: string;
	share: number;
	state: 'waiting' | 'sending' | 'reading' | 'done' | 'failed';
	message: string;
	clip: Clip | null;
};

export const USUAL_RATE = '25';

function noteOn({ files }: Batch): string {
	if (files.length < 2) return '';
	const gaps = gapsIn(files);
	return `PNG sequence of ${files.length} pictures${gaps ? `; missing: ${gaps}` : ''}`;
}

/** Every queue of this window, for the activity menu. */
export const queues = $state<{ all: Uploads[] }>({ all: [] });

export class Uploads {
	list = $state<Incoming[]>([]);
	#last = 0;
	#running: Promise<void> = Promise.resolve();
	#active = new Map<number, Upload>();

	get busy(): boolean {
		return this.list.some(({ state }) => ['waiting', 'sending', 'reading'].includes(state));
	}

	/** The clips that arrived, in the order in which their files were given. */
	get clips(): Clip[] {
		return this.list.flatMap(({ clip }) => (clip ? [clip] : []));
	}

	/**
	 * Add `files` to the queue; `arrived` is called with each clip when it is ready. A PNG sequence
	 * is one clip with `rate` pictures per second.
	 */
	add(
		files: Iterable<File>,
		arrived?: (clip: Clip) => void,
		rate: () => string = () => USUAL_RATE
	): Promise<void> {
		if (!queues.all.includes(this)) queues.all.push(this);
		for (const batch of batches(files)) {
			const id = ++this.#last;
			this.list.push({
				id,
				name: batch.name,
				bytes: batch.files.reduce((sum, { size }) => sum + size, 0),
				note: noteOn(batch),
				share: 0,
				state: 'waiting',
				message: '',
				clip: null
			});
			this.#running = this.#running.then(() => this.#send(id, batch, rate(), arrived));
		}
		return this.#running;
	}

	/** Remove a file from the queue, and stop its upload. */
	remove(id: number) {
		this.#active.get(id)?.cancel();
		this.list = this.list.filter((each) => each.id !== id);
	}

	clear() {
		for (const { id } of this.list) this.remove(id);
	}

	async #send(id: number, batch: Batch, rate: string, arrived?: (clip: Clip) => void) {
		const entry = this.list.find((each) => each.id === id);
		if (!entry) return;
		entry.state = 'sending';
		const sending = upload({ ...batch, rate }, (share) => {
			entry.share = share;
			if (share === 1) entry.state = 'reading';
		});
		this.#active.set(id, sending);
		try {
			entry.clip = await sending.done;
			entry.state = 'done';
			if (this.list.includes(entry)) arrived?.(entry.clip);
		} catch (error) {
			entry.state = 'failed';
			entry.message = (error as Error).message;
		} finally {
			this.#active.delete(id);
		}
	}
}

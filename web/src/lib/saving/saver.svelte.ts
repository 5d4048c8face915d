// Saves changes one after another and keeps trying: what is unsaved, since when, and why.
import { Refusal } from '$lib/api/client';

export type SavedState =
	| 'saved'
	/** Changes wait for a pause, or are being sent. */
	| 'saving'
	/** The last attempt failed. It is repeated. */
	| 'failed'
	/** The server does not accept the change: another one of its key may pass, or it is taken back. */
	| 'refused'
	/** What was to be changed was changed elsewhere: `resolved` goes on. */
	| 'conflict';

export type SendOptions = { keepalive: boolean };
export type Change = {
	/** A change replaces a waiting one of the same key. */
	key: string;
	/** Sends the newest state. With `keepalive` the request outlives the page. */
	send: (options: SendOptions) => Promise<void>;
	/** What to do where the server refuses it for good: it is then dropped. Without, it waits to be taken back. */
	refused?: (error: Refusal) => void;
	/** Shows again what is stored: the change is dropped. */
	takeBack?: () => void;
};

/** The pauses between attempts; the last one is repeated. */
export const RETRY_AFTER_MS = [1000, 2000, 4000, 8000, 10_000];
const TOO_MANY_REQUESTS = 429;

export class Saver {
	state = $state<SavedState>('saved');
	/** When the oldest unsaved change was made. */
	since = $state.raw<Date | null>(null);
	/** Why the last attempt failed. */
	problem = $state('');

	#waiting: Change[] = [];
	#timer: ReturnType<typeof setTimeout> | undefined;
	#attempts = 0;
	#keepalive = false;
	#ended = false;
	/** Sending and other requests take turns: each needs the version that the one before returned. */
	#queue: Promise<unknown> = Promise.resolve();

	get isSaved(): boolean {
		return this.state === 'saved';
	}

	/** Hold a change, and send it once no other has followed for `afterMs`. */
	put(change: Change, afterMs = 0) {
		if (this.#ended) return;
		const place = this.#waiting.findIndex(({ key }) => key === change.key);
		if (place < 0) this.#waiting.push(change);
		else this.#waiting[place] = change;
		this.since ??= new Date();
		if (this.state === 'conflict') return;
		if (this.state === 'saved') this.state = 'saving';
		this.#sendAfter(afterMs);
	}

	/** Whether a change of this key is unsaved. */
	holds(key: string): boolean {
		return this.#waiting.some((each) => each.key === key);
	}

	/** Send what waits now; return whether everything is saved. */
	async flush(): Promise<boolean> {
		await this.#inTurn(() => this.#send());
		return this.isSaved;
	}

	/** The last attempt while the page closes: its requests outlive the page. */
	lastAttempt() {
		this.#keepalive = true;
		void this.flush().finally(() => (this.#keepalive = false));
	}

	/**
	 * Do what would discard unsaved changes: only once they are saved. Returns null where they could
	 * not be saved, and nothing was done.
	 */
	async afterSaving<T>(work: () => Promise<T>): Promise<T | null> {
		return this.#inTurn(async () => {
			await this.#send();
			return this.isSaved ? work() : null;
		});
	}

	/** Go on after a conflict; without `keep`, what waits is dropped. */
	resolved(keep: boolean) {
		if (!keep) this.#waiting = [];
		this.state = 'saving';
		this.#attempts = 0;
		this.#sendAfter(0);
	}

	/** Drop the change that the server does not accept; what else waits is sent. */
	takeBack() {
		if (this.state !== 'refused') return;
		this.#waiting.shift()?.takeBack?.();
		this.state = 'saving';
		this.#sendAfter(0);
	}

	/** Stop trying: what it belongs to has gone. */
	close() {
		clearTimeout(this.#timer);
	}

	/** Drop everything that is unsaved, for good: nothing is sent any more. */
	end() {
		this.#ended = true;
		this.#waiting = [];
		this.close();
	}

	#sendAfter(ms: number) {
		clearTimeout(this.#timer);
		this.#timer = setTimeout(() => void this.flush(), ms);
	}

	#inTurn<T>(work: () => Promise<T>): Promise<T> {
		const done = this.#queue.then(work);
		this.#queue = done.catch(() => undefined);
		return done;
	}

	async #send() {
		clearTimeout(this.#timer);
		while (this.#waiting.length && this.state !== 'conflict') {
			const change = this.#waiting.shift() as Change;
			try {
				await change.send({ keepalive: this.#keepalive });
				this.#attempts = 0;
				if (this.state === 'failed' || this.state === 'refused') this.state = 'saving';
			} catch (error) {
				if (!this.#failed(change, error)) return;
			}
		}
		if (this.#waiting.length) return;
		this.state = 'saved';
		this.since = null;
		this.problem = '';
	}

	/** Take in a failed attempt; return whether to go on with the next change. */
	#failed(change: Change, error: unknown): boolean {
		if (this.#ended) return false;
		const status = error instanceof Refusal ? error.status : 0;
		const isFinal = status >= 400 && status < 500 && status !== TOO_MANY_REQUESTS;
		if (isFinal && status !== 409 && change.refused) {
			change.refused(error as Refusal);
			return true;
		}
		// A newer change of the same key may have come meanwhile.
		if (!this.holds(change.key)) this.#waiting.unshift(change);
		this.problem = error instanceof Error ? error.message : String(error);
		this.state = status === 409 ? 'conflict' : isFinal ? 'refused' : 'failed';
		if (!isFinal) {
			const wait = RETRY_AFTER_MS[Math.min(this.#attempts, RETRY_AFTER_MS.length - 1)];
			this.#attempts += 1;
			this.#sendAfter(wait ?? 0);
		}
		return false;
	}
}

// The live preview over a WebSocket: one state is on its way at a time, the newest one waits.
import { WebSocket as ReconnectingSocket } from 'partysocket';
import { problemText } from '$lib/api/client';
import {
	parsePicture,
	type Curve,
	type Facts,
	type Found,
	type PictureKind,
	type ProblemMessage,
	type Seen,
	type ShownState,
	type Shortage
} from './messages';

export type Picture = { id: number; image: ImageBitmap };

/** An unanswered state holds back newer ones for no longer than this. */
const ANSWER_WITHIN_MS = 3000;
const RECONNECT_MS = { min: 500, max: 10_000 };
/** The server's close code for a cut that is not there. */
const GONE = 4404;

export class Preview {
	connected = $state(false);
	/** Whether the cut has been deleted. */
	gone = $state(false);
	problem = $state('');
	curves = $state.raw<Curve[]>([]);
	changes = $state.raw<number[]>([]);
	shortages = $state.raw<Shortage[]>([]);
	/** The results of the cut checks; checks of rendered frames follow once the strip is complete. */
	findings = $state.raw<Found[]>([]);
	/** Ids of checks that are still analysing; their last results may be out of date. */
	pending = $state.raw<string[]>([]);
	/** Source frames that the speed ramps use beyond the window. */
	spareFramesUsed = $state.raw({ outgoing: 0, incoming: 0 });
	spanThatFits = $state.raw<[number, number] | null>(null);
	/** Grow whenever a picture of the kind arrives; read them to react to the next. */
	frameTick = $state(0);
	thumbTick = $state(0);
	/** Number of the latest state. */
	id = $state(0);
	readonly pictures: Record<PictureKind, Map<number, Picture>> = {
		frame: new Map(),
		thumb: new Map(),
		source: new Map(),
		sharp: new Map(),
		sharp_source: new Map()
	};

	readonly #socket: ReconnectingSocket;
	#closed = false;
	#state: ShownState | null = null;
	#shown = 0;
	#sources: number[] = [];
	#seen: Seen = { area: null, sharp_frames: 0 };
	#scheduled = 0;
	/** The id of the last state that was sent, and of the one that is not answered yet. */
	#sent = 0;
	#unanswered = 0;
	#requestedAgain = 0;
	#overdue: ReturnType<typeof setTimeout> | undefined;
	/** Source pictures of earlier states show other clips or another framing. */
	#sourcesSince = 0;
	/** The newest id of each kind of facts that was taken. */
	readonly #factsOf: Record<string, number> = {};
	/** The ids of the filters of each state that was sent and may still be judged. */
	readonly #filtersOf = new Map<number, string[]>();
	/** Who waits for the curves and shortages of a state. */
	#waiting: { id: number; done: () => void }[] = [];

	constructor(readonly cutId: string) {
		const protocol = location.protocol === 'https:' ? 'wss' : 'ws';
		this.#socket = new ReconnectingSocket(
			`${protocol}://${location.host}/api/cuts/${cutId}/preview`,
			[],
			{
				minReconnectionDelay: RECONNECT_MS.min,
				maxReconnectionDelay: RECONNECT_MS.max,
				maxEnqueuedMessages: 0
			}
		);
		this.#socket.binaryType = 'arraybuffer';
		this.#socket.addEventListener('open', () => this.#opened());
		this.#socket.addEventListener('message', ({ data }) =>
			this.#take(data as ArrayBuffer | string)
		);
		this.#socket.addEventListener('close', ({ code }) => this.#lost(code));
	}

	/** Show a new state; requests within one screen refresh are joined, the last one counts. */
	show(state: ShownState, shown: number, sources: number[]) {
		const first = this.#state === null;
		this.#state = state;
		this.#shown = shown;
		this.#sources = sources;
		this.id += 1;
		// The first request need not wait for the page to be drawn.
		if (first) this.#send();
		else this.#schedule();
	}

	/** Wait until the curves and shortages of the latest state, or a newer one, are known. */
	curvesOfNewest(): Promise<void> {
		return new Promise((done) => this.#waiting.push({ id: this.id, done }));
	}

	/** Show another frame of the same state. */
	showFrame(shown: number, sources: number[]) {
		if (shown === this.#shown && sources.join() === this.#sources.join()) return;
		this.#shown = shown;
		this.#sources = sources;
		this.#schedule();
	}

	/** The picture is seen in another size. */
	showIn(seen: Seen) {
		if (JSON.stringify(seen) === JSON.stringify(this.#seen)) return;
		this.#seen = seen;
		this.#forgetSharp();
		if (this.#state) this.#schedule();
	}

	/** The sharp picture of a frame, unless a newer state is shown by a smaller one. */
	sharp(offset: number): Picture | undefined {
		const found = this.pictures.sharp.get(offset);
		const quick = this.pictures.frame.get(offset);
		return found && (!quick || found.id >= quick.id) ? found : undefined;
	}

	/** How many sharp pictures are kept: the shown one at least. */
	get keptSharp(): number {
		return Math.max(1, this.#seen.sharp_frames);
	}

	/** Forget the sharp pictures of older states, and those farthest from the shown frame where there are too many. */
	#forgetSharp(id = 0) {
		const { sharp } = this.pictures;
		const outward = [...sharp].sort(
			([one], [other]) => Math.abs(one - this.#shown) - Math.abs(other - this.#shown)
		);
		const current = outward.filter(([, picture]) => picture.id >= id);
		const kept = new Set(current.slice(0, this.keptSharp).map(([offset]) => offset));
		for (const [offset, { image }] of outward) {
			if (kept.has(offset)) continue;
			image.close();
			sharp.delete(offset);
		}
	}

	/** The clips changed: the server must open them anew. */
	reopen() {
		this.forgetSources();
		this.#socket.reconnect();
	}

	/** Original frames must be read again: those that are still on their way are not taken. */
	forgetSources() {
		for (const kind of ['source', 'sharp_source'] as const) {
			for (const { image } of this.pictures[kind].values()) image.close();
			this.pictures[kind].clear();
		}
		this.#sourcesSince = this.id + 1;
	}

	close() {
		this.#closed = true;
		cancelAnimationFrame(this.#scheduled);
		clearTimeout(this.#overdue);
		this.#socket.close();
		for (const kept of Object.values(this.pictures)) {
			for (const { image } of kept.values()) image.close();
			kept.clear();
		}
	}

	#opened() {
		this.connected = true;
		this.#sent = 0;
		this.#answered(this.#unanswered);
		this.#schedule();
	}

	#lost(code: number) {
		this.connected = false;
		if (code !== GONE || this.#closed) return;
		this.gone = true;
		this.#socket.close();
	}

	#schedule() {
		if (this.#scheduled) return;
		this.#scheduled = requestAnimationFrame(() => {
			this.#scheduled = 0;
			this.#send();
		});
	}

	#send() {
		if (this.#socket.readyState !== WebSocket.OPEN || !this.#state) return;
		// Original frames do not depend on the recipe: one that has arrived is not requested again.
		const sources = this.#sources.filter((offset) => !this.#hasSource(offset));
		if (this.#sent === this.id) {
			const focus = { id: this.id, shown: this.#shown, sources, ...this.#seen };
			this.#socket.send(JSON.stringify(focus));
		} else if (!this.#unanswered) {
			this.#sent = this.#unanswered = this.id;
			this.#filtersOf.set(
				this.id,
				this.#state.recipe.filters.map(({ id }) => id)
			);
			this.#overdue = setTimeout(() => this.#answered(this.#unanswered), ANSWER_WITHIN_MS);
			const request = { id: this.id, shown: this.#shown, sources, ...this.#state, ...this.#seen };
			this.#socket.send(JSON.stringify(request));
		}
	}

	#hasSource(offset: number): boolean {
		const { source, sharp_source } = this.pictures;
		return this.#seen.area ? sharp_source.has(offset) : source.has(offset);
	}

	/** A state is answered: the newest one may go. */
	#answered(id: number) {
		if (id < this.#unanswered) return;
		clearTimeout(this.#overdue);
		this.#unanswered = 0;
		if (this.#sent !== this.id) this.#schedule();
	}

	#take(data: ArrayBuffer | string) {
		if (typeof data === 'string') this.#takeText(JSON.parse(data) as Facts | ProblemMessage);
		else void this.#takePicture(data);
	}

	#takeText(message: Facts | ProblemMessage) {
		if (message.kind === 'problem') {
			this.#failed(problemText(message), message);
			this.#answered(message.id ?? this.#unanswered);
			return;
		}
		// The facts of an older state never replace newer ones.
		if (message.id < (this.#factsOf[message.kind] ?? 0)) return;
		this.#factsOf[message.kind] = message.id;
		if (message.kind === 'changes') this.changes = message.changes;
		else if (message.kind === 'checks') this.#takeChecks(message);
		else {
			this.problem = '';
			this.curves = message.curves;
			this.shortages = message.shortages;
			this.spareFramesUsed = message.spare_frames_used;
			this.spanThatFits = message.span_that_fits;
			for (const { id, done } of this.#waiting) if (id <= message.id) done();
			this.#waiting = this.#waiting.filter(({ id }) => id > message.id);
		}
	}

	/** While a value is dragged, the slower checks keep their last results. */
	#takeChecks({ id, checks, pending }: Extract<Facts, { kind: 'checks' }>) {
		this.pending = pending;
		const filters = this.#filtersOf.get(id) ?? [];
		for (const each of this.#filtersOf.keys()) if (each < id) this.#filtersOf.delete(each);
		const fresh = new Set(checks.map((each) => each.id));
		this.findings = [
			...checks.map((each) => ({ ...each, filters })),
			...this.findings.filter((each) => !fresh.has(each.id))
		];
	}

	#failed(text: string, details: unknown) {
		this.problem = text;
		console.error('Preview:', text, details);
	}

	async #takePicture(data: ArrayBuffer) {
		const { head, jpeg } = parsePicture(data);
		if (head.kind === 'frame') this.#answered(head.id);
		let image: ImageBitmap;
		try {
			image = await createImageBitmap(jpeg);
		} catch (error) {
			this.#failed('A frame from the server cannot be shown. It is requested again.', error);
			// Once: a frame that fails again would be requested without end.
			if (this.#requestedAgain === head.id) return;
			this.#requestedAgain = head.id;
			this.#sent = 0;
			this.#schedule();
			return;
		}
		const kept = this.pictures[head.kind];
		const old = kept.get(head.offset);
		const outdated = head.kind.endsWith('source') && head.id < this.#sourcesSince;
		// While a value is dragged every answer is a little late: show any that is newer.
		if (this.#closed || outdated || (old && old.id > head.id)) {
			image.close();
			return;
		}
		kept.set(head.offset, { id: head.id, image });
		old?.image.close();
		if (head.kind === 'sharp') this.#forgetSharp(head.id);
		if (head.kind === 'thumb') this.thumbTick += 1;
		else this.frameTick += 1;
	}
}

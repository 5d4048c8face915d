// The live preview over a WebSocket: sends states of the bench, keeps the newest pictures.
import { problemText, type Framing } from '$lib/api/client';
import type { PatchStep, Recipe } from './recipe';

export type Curve = {
	filter_id: string;
	parameter: string;
	values: number[];
	times: number[];
	line: number[];
};
export type Fix = {
	label: string;
	patch: PatchStep[];
	move_cut?: number;
};
export type Finding = {
	id: string;
	status: 'ok' | 'warning' | 'failed';
	value: number;
	unit: string;
	frame: number | null;
	message: string;
	fix: Fix | null;
	more_fixes: Fix[];
};
export type Shortage = { side: 'outgoing' | 'incoming'; missing: number; message: string };
export type Picture = { id: number; image: ImageBitmap };
type PictureKind = 'frame' | 'thumb' | 'source';
type State = {
	before: number;
	after: number;
	recipe: Recipe;
	run_up: number;
	framing: { outgoing: Framing; incoming: Framing };
};

const RECONNECT_MS = 1000;

export class Preview {
	connected = $state(false);
	problem = $state('');
	curves = $state.raw<Curve[]>([]);
	changes = $state.raw<number[]>([]);
	shortages = $state.raw<Shortage[]>([]);
	/** The results of the cut checks; checks of rendered frames follow once the strip is complete. */
	findings = $state.raw<Finding[]>([]);
	/** Ids of checks that are still analysing; their last results may be out of date. */
	pending = $state.raw<string[]>([]);
	/** Source frames that the speed ramps use beyond the window. */
	spareFramesUsed = $state.raw<Record<'outgoing' | 'incoming', number>>({
		outgoing: 0,
		incoming: 0
	});
	spanThatFits = $state.raw<[number, number] | null>(null);
	/** Grow whenever a picture of the kind arrives; read them to react to the next. */
	frameTick = $state(0);
	thumbTick = $state(0);
	/** Number of the latest requested state. */
	id = $state(0);
	readonly pictures: Record<PictureKind, Map<number, Picture>> = {
		frame: new Map(),
		thumb: new Map(),
		source: new Map()
	};

	#socket: WebSocket | null = null;
	#closed = false;
	#state: State | null = null;
	#shown = 0;
	#sources: number[] = [];
	#scheduled = 0;
	#anew = false;
	#reopening = false;

	constructor(readonly cutId: string) {
		this.#connect();
	}

	/** Show a new state; requests within one screen refresh are joined, the last one counts. */
	show(state: State, shown: number, sources: number[]) {
		const first = this.#state === null;
		this.#state = state;
		this.#shown = shown;
		this.#sources = sources;
		this.#anew = true;
		this.id += 1;
		// The first request need not wait for the page to be drawn.
		if (first) this.#send();
		else this.#schedule();
	}

	/** The cut moved: the server must open the clips anew. */
	reopen() {
		this.forgetSources();
		this.#reopening = true;
		this.#socket?.close();
	}

	/** The framing changed: original frames must be read again. */
	forgetSources() {
		for (const { image } of this.pictures.source.values()) image.close();
		this.pictures.source.clear();
	}

	/** Show another frame of the same state. */
	showFrame(shown: number, sources: number[]) {
		if (shown === this.#shown && sources.join() === this.#sources.join()) return;
		this.#shown = shown;
		this.#sources = sources;
		this.#schedule();
	}

	isFresh(offset: number): boolean {
		return this.pictures.frame.get(offset)?.id === this.id;
	}

	close() {
		this.#closed = true;
		cancelAnimationFrame(this.#scheduled);
		this.#socket?.close();
		for (const kept of Object.values(this.pictures)) {
			for (const { image } of kept.values()) image.close();
			kept.clear();
		}
	}

	#connect() {
		const protocol = location.protocol === 'https:' ? 'wss' : 'ws';
		const socket = new WebSocket(`${protocol}://${location.host}/api/cuts/${this.cutId}/preview`);
		socket.binaryType = 'arraybuffer';
		socket.onopen = () => {
			this.connected = true;
			if (this.#state) {
				this.#anew = true;
				this.#schedule();
			}
		};
		socket.onmessage = ({ data }) => this.#take(data);
		socket.onclose = () => {
			this.connected = false;
			if (this.#closed) return;
			setTimeout(() => this.#closed || this.#connect(), this.#reopening ? 0 : RECONNECT_MS);
			this.#reopening = false;
		};
		this.#socket = socket;
	}

	#schedule() {
		if (this.#scheduled) return;
		this.#scheduled = requestAnimationFrame(() => {
			this.#scheduled = 0;
			this.#send();
		});
	}

	#send() {
		if (this.#socket?.readyState !== WebSocket.OPEN || !this.#state) return;
		// Original frames do not depend on the recipe: one that has arrived is not requested again.
		const sources = this.#sources.filter((offset) => !this.pictures.source.has(offset));
		const looking = { id: this.id, shown: this.#shown, sources };
		this.#socket.send(JSON.stringify(this.#anew ? { ...looking, ...this.#state } : looking));
		this.#anew = false;
	}

	#take(data: ArrayBuffer | string) {
		if (typeof data === 'string') this.#takeFacts(JSON.parse(data));
		else void this.#takePicture(data);
	}

	#takeFacts(message: Record<string, unknown>) {
		if (message.kind === 'problem') {
			this.problem = problemText(message);
			return;
		}
		this.problem = '';
		if (message.kind === 'changes') this.changes = message.changes as number[];
		if (message.kind === 'checks')
			this.#takeChecks(message.checks as Finding[], message.pending as string[]);
		if (message.kind === 'curves') {
			this.curves = message.curves as Curve[];
			this.shortages = message.shortages as Shortage[];
			this.spareFramesUsed = message.spare_frames_used as Record<'outgoing' | 'incoming', number>;
			this.spanThatFits = message.span_that_fits as [number, number] | null;
		}
	}

	/** While a value is dragged, the slower checks keep their last results. */
	#takeChecks(checks: Finding[], pending: string[]) {
		this.pending = pending;
		const fresh = new Set(checks.map((each) => each.id));
		this.findings = [...checks, ...this.findings.filter((each) => !fresh.has(each.id))];
	}

	async #takePicture(data: ArrayBuffer) {
		const length = new DataView(data).getUint32(0);
		const head = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, length))) as {
			id: number;
			kind: PictureKind;
			offset: number;
		};
		const image = await createImageBitmap(
			new Blob([new Uint8Array(data, 4 + length)], { type: 'image/jpeg' })
		);
		const kept = this.pictures[head.kind];
		const old = kept.get(head.offset);
		// While a value is dragged every answer is a little late: show any that is newer.
		if (this.#closed || (old && old.id > head.id)) {
			image.close();
			return;
		}
		kept.set(head.offset, { id: head.id, image });
		old?.image.close();
		if (head.kind === 'thumb') this.thumbTick += 1;
		else this.frameTick += 1;
	}
}

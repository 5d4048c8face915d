// The live preview over a WebSocket: sends states of the bench, keeps the newest pictures.
import type { Framing } from '$lib/api/client';
import type { PatchStep, Recipe } from './recipe';

export type Curve = {
	pass_id: string;
	parameter: string;
	values: number[];
	times: number[];
	line: number[];
};
export type Mend = {
	label: string;
	patch: PatchStep[];
	move_cut?: number;
};
export type Finding = {
	id: string;
	verdict: 'ok' | 'look' | 'broken';
	figure: number;
	unit: string;
	frame: number | null;
	sentence: string;
	mend: Mend | null;
	more_mends: Mend[];
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
	/** What the cut checks found; those on rendered frames follow once the strip is whole. */
	findings = $state.raw<Finding[]>([]);
	/** Checks that are still looking at the frames; what they found last may no longer be so. */
	pending = $state.raw<string[]>([]);
	/** Source frames that the speed ramps use beyond the window's own. */
	spent = $state.raw<Record<'outgoing' | 'incoming', number>>({ outgoing: 0, incoming: 0 });
	spanThatFits = $state.raw<[number, number] | null>(null);
	/** Grow whenever a picture of the kind arrives; read them to be told. */
	frameTick = $state(0);
	thumbTick = $state(0);
	/** The state that was asked for last. */
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
		// The first need not wait until the page is drawn.
		if (first) this.#send();
		else this.#schedule();
	}

	/** The clips meet at other frames now: the server must look at them anew. */
	reopen() {
		this.forgetSources();
		this.#reopening = true;
		this.#socket?.close();
	}

	/** The clips stand differently now: untreated frames must be read again. */
	forgetSources() {
		for (const { image } of this.pictures.source.values()) image.close();
		this.pictures.source.clear();
	}

	/** Show another frame of the same state. */
	look(shown: number, sources: number[]) {
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
		// A source does not change with the recipe: one that is here need not be sent again.
		const sources = this.#sources.filter((offset) => !this.pictures.source.has(offset));
		const looking = { id: this.id, shown: this.#shown, sources };
		this.#socket.send(JSON.stringify(this.#anew ? { ...looking, ...this.#state } : looking));
		this.#anew = false;
	}

	#take(data: ArrayBuffer | string) {
		if (typeof data === 'string') this.#takeFacts(JSON.parse(data));
		else void this.#takePicture(data);
	}

	#takeFacts(told: Record<string, unknown>) {
		if (told.kind === 'problem') {
			const problems = told.problems as { field: string | null; message: string }[];
			this.problem = problems
				.map((p) => (p.field ? `${p.field}: ${p.message}` : p.message))
				.join(' · ');
			return;
		}
		this.problem = '';
		if (told.kind === 'changes') this.changes = told.changes as number[];
		if (told.kind === 'checks')
			this.#takeChecks(told.checks as Finding[], told.pending as string[]);
		if (told.kind === 'curves') {
			this.curves = told.curves as Curve[];
			this.shortages = told.shortages as Shortage[];
			this.spent = told.spent as Record<'outgoing' | 'incoming', number>;
			this.spanThatFits = told.span_that_fits as [number, number] | null;
		}
	}

	/** While values are dragged the slower checks keep what they found last. */
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
		// While a value is dragged every answer is a little late: newer than shown is good enough.
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

// What is heard of the page: one player at a time. Whoever begins silences the one before it.

/** Who plays, and how it is silenced when another one begins. */
export type Heard = { silence: () => void };

let context: AudioContext | null = null;
let heard: Heard | null = null;

/** The page's audio, begun when it is first needed: browsers want a press before it. */
export function audio(): AudioContext {
	context ??= new AudioContext();
	return context;
}

/** From now on `player` is heard, and no other. */
export function begin(player: Heard) {
	const before = heard;
	heard = player;
	if (before && before !== player) before.silence();
}

/** `player` is not heard any more. */
export function end(player: Heard) {
	if (heard === player) heard = null;
}

/** A source that plays a sound; it is connected, not started. */
export function sourceOf(buffer: AudioBuffer): AudioBufferSourceNode {
	const source = audio().createBufferSource();
	source.buffer = buffer;
	source.connect(audio().destination);
	return source;
}

/** Stop a source and let go of it. */
export function drop(source: AudioBufferSourceNode | null) {
	try {
		source?.stop();
	} catch {
		// It was never started.
	}
	source?.disconnect();
}

// Pictures that could not be loaded are asked for again: the server may be gone for a while.

/** The pauses before another attempt; after the last one a picture is given up. */
const AGAIN_AFTER_MS = [1000, 2000, 4000, 8000, ...Array<number>(12).fill(10_000)];

/** Watch every picture of a document until the function that is returned is called. */
export function retryPictures(document: Document): () => void {
	const attempts = new WeakMap<HTMLImageElement, { src: string; count: number }>();

	function failed({ target }: Event) {
		if (!(target instanceof HTMLImageElement)) return;
		const { src } = target;
		const known = attempts.get(target);
		const count = known?.src === src ? known.count : 0;
		// What is not there is not drawn as broken.
		target.dataset.failed = '';
		const pause = AGAIN_AFTER_MS[count];
		if (pause === undefined) return;
		attempts.set(target, { src, count: count + 1 });
		setTimeout(() => {
			if (target.isConnected && target.src === src) target.src = src;
		}, pause);
	}

	function loaded({ target }: Event) {
		if (target instanceof HTMLImageElement) delete target.dataset.failed;
	}

	// Neither event bubbles.
	document.addEventListener('error', failed, true);
	document.addEventListener('load', loaded, true);
	return () => {
		document.removeEventListener('error', failed, true);
		document.removeEventListener('load', loaded, true);
	};
}

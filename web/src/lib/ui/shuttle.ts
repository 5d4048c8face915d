// J and L play backward and forward, each further press twice as fast.
const FASTEST = 8;

export type Direction = 1 | -1;

/** How many times as fast pictures play after one more press, backward below 0; `now` is 0 at rest. */
export function faster(now: number, direction: Direction): number {
	return now * direction > 0 ? direction * Math.min(FASTEST, Math.abs(now) * 2) : direction;
}

/** The frame that is shown at a place between frames: the one that was reached last. */
export function frameAt(place: number, velocity: number): number {
	// Rounding must not skip a frame.
	return velocity < 0 ? Math.ceil(place - 1e-6) : Math.floor(place + 1e-6);
}

/** The speed in words, where it is not the usual one. */
export function speedText(velocity: number): string {
	if (velocity === 1) return '';
	return `${Math.abs(velocity)}×${velocity < 0 ? ' backward' : ''}`;
}

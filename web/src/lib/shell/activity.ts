// What is at work on the server: shown on every screen, also after a reload.
import { createQuery } from '@tanstack/svelte-query';
import { api, request, type Render } from '$lib/api/client';
import { counted } from '$lib/ui/numbers';

const POLL_MS = 1500;
const IDLE_POLL_MS = 10_000;

export function isActive({ state }: { state: string }): boolean {
	return ['waiting', 'running'].includes(state);
}

/** The renders and detections at work; call it while a component is set up. */
export function activityQuery() {
	return createQuery(() => ({
		queryKey: ['activity'],
		queryFn: () => request(api.GET('/api/activity')),
		refetchInterval: ({ state }) => {
			const { renders = [], detections = [], subjects = [], beats = [] } = state.data ?? {};
			return [...renders, ...detections, ...subjects, ...beats].some(isActive)
				? POLL_MS
				: IDLE_POLL_MS;
		}
	}));
}

/** How far a running render is, and about how long it still takes. */
export function progressText(render: Render): string {
	const left = render.cancel_asked ? 'cancelling…' : timeLeft(render);
	const workers = render.workers > 1 ? counted(render.workers, 'worker') : '';
	return [framesText(render), left, workers].filter(Boolean).join(', ');
}

/** Frames rendered, frames joined, or that only the file is left. */
export function framesText(render: Render): string {
	const { done_frames: done, total_frames: total } = render;
	if (render.is_joining && done < total) return `Joining: ${done} of ${total} frames`;
	return done < total ? `${done} of ${total} frames` : 'Finishing the file…';
}

/** The estimated time left; '' until ten frames are done. */
export function timeLeft(render: Render, now = Date.now()): string {
	const { done_frames: done, total_frames: total } = render;
	if (!render.started_at || render.is_joining || done < 10 || done >= total) return '';
	const gone = (now - Date.parse(render.started_at)) / 1000;
	const seconds = (gone / done) * (total - done);
	return seconds > 90
		? `about ${Math.round(seconds / 60)} min left`
		: `about ${Math.ceil(seconds)} s left`;
}

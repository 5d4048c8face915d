// Who is signed in, and the way to the page that signs in.
import { createQuery } from '@tanstack/svelte-query';
import { api, request } from '$lib/api/client';

export const SIGN_IN = '/sign-in';

/** The session of this browser: whether one has to sign in, and as whom. */
export function sessionQuery() {
	return createQuery(() => ({
		queryKey: ['session'],
		queryFn: () => request(api.GET('/api/session')),
		staleTime: Infinity
	}));
}

/** The address of the sign-in page that returns to where the reader is; from that page itself, its own. */
export function signInAddress(from: { pathname: string; search: string }): string {
	// Several requests of one page may be refused, the last of them when the reader is there already.
	if (from.pathname === SIGN_IN) return SIGN_IN + from.search;
	return `${SIGN_IN}?to=${encodeURIComponent(from.pathname + from.search)}`;
}

/** Where to go after signing in: a place of this application, never another website. */
export function returnAddress(parameters: URLSearchParams): string {
	const to = parameters.get('to') ?? '/';
	const isOurs = /^\/(?![/\\])/.test(to) && !to.startsWith(SIGN_IN);
	return isOurs ? to : '/';
}

/** One or two letters that stand for a name. */
export function initials(name: string): string {
	const words = name.split(/\s+/).filter(Boolean);
	const letters = [words[0], words.length > 1 ? words.at(-1) : ''].map(
		(word) => [...(word ?? '')][0]
	);
	return letters.join('').toUpperCase();
}

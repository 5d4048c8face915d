// Requests of someone who is signed in: one whose session has ended waits until it is begun again, then goes on.
const FIRST_SIGN_IN = 401;

/** Asks the user to sign in; resolves to whether to ask the server again. */
type Asking = () => Promise<boolean>;

let asking: Asking | null = null;
let wasAnswered = false;
/** How often somebody has signed in: what was sent before that is only sent again. */
let signIns = 0;

/** What asks the user to sign in, from now on. */
export function whenSignInIsNeeded(ask: Asking) {
	asking = ask;
}

/** Somebody has signed in. */
export function noteSignIn() {
	signIns += 1;
}

/** How often somebody has signed in so far. */
export function signInCount(): number {
	return signIns;
}

/** Whether the server has answered anything of the work yet: before, nothing can be lost. */
export function hasBeenAnswered(): boolean {
	return wasAnswered;
}

/** Whether an answer says that one has to sign in first. */
export function needsSignIn({ status, url }: { status: number; url: string }): boolean {
	return status === FIRST_SIGN_IN && !isOfSession(url);
}

/**
 * Whether to repeat a request that was answered so, once the user has signed in; `sentAt` is the count of
 * sign-ins when it was sent.
 */
export async function signedInAgain(
	answer: { status: number; url: string },
	sentAt: number
): Promise<boolean> {
	if (needsSignIn(answer)) return sentAt !== signIns || (asking !== null && (await asking()));
	if (answer.status < 300 && !isOfSession(answer.url)) wasAnswered = true;
	return false;
}

/** Fetch, and once more after signing in where the session has ended meanwhile. */
export async function signedFetch(request: Request): Promise<Response> {
	for (;;) {
		const sentAt = signIns;
		const answer = await fetch(request.clone());
		if (!(await signedInAgain(answer, sentAt))) return answer;
	}
}

function isOfSession(url: string): boolean {
	return url.includes('/api/session');
}

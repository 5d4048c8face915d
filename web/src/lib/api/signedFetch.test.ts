import { afterEach, expect, it, vi } from 'vitest';
import { needsSignIn, noteSignIn, signedFetch, whenSignInIsNeeded } from './signedFetch';

const asked: string[] = [];
let isSignedIn = false;
vi.stubGlobal('fetch', async (request: Request) => {
	const status = isSignedIn ? 200 : 401;
	asked.push(`${request.method} ${await request.text()}`);
	return { status, url: request.url } as Response;
});
const save = () =>
	signedFetch(new Request('http://localhost/api/cuts/7', { method: 'PUT', body: 'a roll' }));

afterEach(() => {
	asked.length = 0;
	isSignedIn = false;
});

it('waits for signing in, and then sends the same again', async () => {
	let signIn = () => {};
	const signedIn = new Promise<void>((done) => (signIn = done));
	whenSignInIsNeeded(async () => {
		await signedIn;
		return true;
	});
	const saves = Promise.all([save(), save()]);
	await new Promise((done) => setTimeout(done));
	expect(asked).toHaveLength(2);
	isSignedIn = true;
	signIn();
	expect((await saves).map(({ status }) => status)).toEqual([200, 200]);
	expect(asked).toEqual(Array(4).fill('PUT a roll'));
});

it('asks nobody where somebody has signed in since it was sent', async () => {
	const ask = vi.fn(() => Promise.resolve(true));
	whenSignInIsNeeded(ask);
	const late = save();
	isSignedIn = true;
	noteSignIn();
	expect((await late).status).toBe(200);
	expect(ask).not.toHaveBeenCalled();
});

it('hands on the refusal where nobody is asked to sign in', async () => {
	whenSignInIsNeeded(() => Promise.resolve(false));
	expect((await save()).status).toBe(401);
	expect(asked).toHaveLength(1);
});

it('only answers of other addresses ask to sign in', () => {
	expect(needsSignIn({ status: 401, url: 'http://localhost/api/edits' })).toBe(true);
	expect(needsSignIn({ status: 401, url: 'http://localhost/api/session/password' })).toBe(false);
	expect(needsSignIn({ status: 422, url: 'http://localhost/api/edits' })).toBe(false);
});

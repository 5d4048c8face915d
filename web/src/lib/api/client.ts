// The typed client of the API, and the API's problems as text.
import createClient from 'openapi-fetch';
import type { components, paths } from './generated/schema';

export const api = createClient<paths>({ baseUrl: '' });

export type Edit = components['schemas']['EditOut'];
export type Cut = components['schemas']['CutOut'];
export type Framing = components['schemas']['Framing'];
export type Variant = components['schemas']['VariantOut'];
export type History = components['schemas']['HistoryOut'];
export type CutSummary = components['schemas']['CutSummary'];
export type Clip = components['schemas']['ClipOut'];
export type Placed = components['schemas']['PlacedOut'];
export type Render = components['schemas']['RenderOut'];
export type Catalogue = components['schemas']['CatalogueOut'];
export type PassKind = components['schemas']['PassOut'];
export type Shape = components['schemas']['ShapeOut'];
export type BookRecipe = components['schemas']['RecipeOut'];
export type Book = components['schemas']['BookOut'];
export type MixKind = components['schemas']['MixOut'];
export type Parameter = components['schemas']['ParameterOut'];

type Answer<T> = { data?: T; error?: unknown; response: Response };

export class Refusal extends Error {
	constructor(
		message: string,
		readonly status: number
	) {
		super(message);
	}
}

/** The data of an answer, or a Refusal whose message can be shown as it is. */
export async function need<T>(asked: Promise<Answer<T>>): Promise<T> {
	let answer: Answer<T>;
	try {
		answer = await asked;
	} catch {
		throw new Refusal('The server does not answer. Is it still running? Start it with ./start.', 0);
	}
	if (answer.response.ok) return answer.data as T;
	throw new Refusal(problemText(answer.error), answer.response.status);
}

let catalogue: Promise<Catalogue> | null = null;

/** The catalogue, asked for once: it never changes while the server runs. */
export function catalogueOnce(): Promise<Catalogue> {
	catalogue ??= need(api.GET('/api/catalogue'));
	// A server that was not there may be there the next time.
	catalogue.catch(() => (catalogue = null));
	return catalogue;
}

/** What the problems of a refusal say, field first where one is to blame. */
export function problemText(body: unknown): string {
	const problems = (body as { problems?: { field: string | null; message: string }[] })?.problems;
	if (!problems?.length) return 'The server could not do this. Try again; its log has the details.';
	return problems
		.map(({ field, message }) => (field ? `${field}: ${message}` : sentence(message)))
		.join(' · ');
}

function sentence(text: string): string {
	// A file's name keeps its own capitals.
	const startsWithName = /^\S+\.\w+\b/.test(text);
	const first = startsWithName ? text : text.charAt(0).toUpperCase() + text.slice(1);
	return /[.!?]$/.test(first) ? first : `${first}.`;
}

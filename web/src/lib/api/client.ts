// The typed client of the API, and the API's problems as text.
import createClient from 'openapi-fetch';
import { capitalised } from '$lib/ui/numbers';
import { signedFetch } from './signedFetch';
import type { components, paths } from './generated/schema';

export const api = createClient<paths>({ baseUrl: '', fetch: signedFetch });

export type EditSummary = components['schemas']['EditSummary'];
export type Edit = components['schemas']['EditOut'];
export type Music = NonNullable<Edit['music']>;
export type Cut = components['schemas']['CutOut'];
export type FramePairs = components['schemas']['PairsOut'];
export type Fit = components['schemas']['FitOut'];
export type Framing = components['schemas']['Framing'];
export type SubjectFacts = components['schemas']['SubjectOut'];
export type Strokes = components['schemas']['Strokes'];
export type SubjectView = components['schemas']['Looked']['view'];
export type Variant = components['schemas']['VariantOut'];
export type History = components['schemas']['HistoryOut'];
export type CutSummary = components['schemas']['CutSummary'];
export type Clip = components['schemas']['ClipOut'];
export type Placed = components['schemas']['PlacedOut'];
export type Render = components['schemas']['RenderOut'];
export type Catalogue = components['schemas']['CatalogueOut'];
export type FilterKind = components['schemas']['FilterOut'];
export type Shape = components['schemas']['ShapeOut'];
export type BookRecipe = components['schemas']['RecipeOut'];
export type Book = components['schemas']['BookOut'];
export type Preset = components['schemas']['PresetOut'];
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

/** The data of an answer; throws a Refusal whose message can be shown. */
export async function request<T>(asked: Promise<Answer<T>>): Promise<T> {
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

/** The catalogue, requested once: it does not change while the server runs. */
export function catalogueOnce(): Promise<Catalogue> {
	catalogue ??= request(api.GET('/api/catalogue'));
	// After a failure the next call requests it again.
	catalogue.catch(() => (catalogue = null));
	return catalogue;
}

/** The messages of a refusal. */
export function problemText(body: unknown): string {
	const problems = (body as { problems?: { field: string | null; message: string }[] })?.problems;
	if (!problems?.length) return 'The server could not do this. Try again; the log has the details.';
	return problems
		.map(({ field, message }) => (field ? inField(field, message) : sentence(message)))
		.join(' · ');
}

function sentence(text: string): string {
	// A file's name keeps its own capitals.
	const startsWithName = /^\S+\.\w+\b/.test(text);
	const first = startsWithName ? text : capitalised(text);
	return /[.!?]$/.test(first) ? first : `${first}.`;
}

/** A message that is a sentence speaks for itself; another one needs the name of its field. */
function inField(path: string, message: string): string {
	if (/^[A-Z]/.test(message)) return message;
	const name = path.split('.').at(-1) ?? path;
	return `${capitalised(name.replaceAll('_', ' '))}: ${message}`;
}

// What the Render dialog offers, in words, and what it asks of the server.
import type { Render } from '$lib/api/client';
import type { components } from '$lib/api/generated/schema';
import { counted, sizeText } from '$lib/ui/numbers';

export type Choices = components['schemas']['ChoicesOut'];
export type Choice = components['schemas']['RenderChoice'];
export type Estimate = components['schemas']['EstimateOut'];
export type NewRender = components['schemas']['NewRender'];
export type What = NonNullable<NewRender['what']>;
/** What is rendered from: a cut of an edit, or the edit. */
export type Subject = { edit: string; cut?: string };

type Named<T> = { value: T; name: string; about: string };

export const WHATS: Named<What>[] = [
	{ value: 'window', name: 'This window', about: 'The frames of this cut’s window' },
	{
		value: 'windows',
		name: 'Every treated window',
		about: 'One file for each cut with a filter or a mix, in a ZIP'
	},
	{ value: 'edit', name: 'Whole edit', about: 'The edit from start to end' },
	{
		value: 'round_trip',
		name: 'Round trip',
		about: 'Rendered windows with an OTIO and an EDL timeline that has them in place, in a ZIP'
	}
];

export const QUALITIES: Record<string, string> = {
	draft: 'Draft',
	standard: 'Standard',
	high: 'High'
};

const SIZE_NAMES = { full: 'Full', half: 'Half', quarter: 'Quarter' };

/** The sizes to choose from, in words. */
export function sizeItems(sizes: Choices['sizes']) {
	return sizes.map(({ choice, width, height }) => ({
		value: choice,
		name: `${SIZE_NAMES[choice]}, ${width}×${height}`
	}));
}

/** Whether untreated frames are written on each side of windows. */
export function hasHandles(what: What): boolean {
	return what !== 'edit';
}

/** The pattern of file names that a choice uses. */
export function nameField(what: What): 'window_name' | 'edit_name' {
	return what === 'window' || what === 'windows' ? 'window_name' : 'edit_name';
}

/** The parts of a name that a pattern can have. */
export function nameParts(what: What): string[] {
	return nameField(what) === 'window_name'
		? ['{edit}', '{cut}', '{recipe}', '{outgoing}', '{incoming}']
		: ['{edit}'];
}

/** The request for a choice. A round trip needs a video. */
export function newRender(subject: Subject, choice: Choice): NewRender {
	const { what, format, quality, size, handles, sound, accents_apart } = choice;
	const from = what === 'window' ? { cut: subject.cut } : { edit: subject.edit };
	const name = choice[nameField(what)];
	return { ...from, what, format, quality, size, handles, sound, accents_apart, name };
}

/** How long something takes, roughly. */
export function durationText(seconds: number): string {
	if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`;
	if (seconds < 5400) return `${Math.round(seconds / 60)} min`;
	return `${Number((seconds / 3600).toPrecision(2))} h`;
}

export function estimateText({ frames, width, height, bytes, seconds }: Estimate): string {
	return `${counted(frames, 'frame')}, ${width}×${height}, about ${sizeText(bytes)}, about ${durationText(seconds)}`;
}

/** What was written, from which version: "Whole edit, MP4 H.264, Standard, 1280×720, version 4". */
export function writtenText(
	{ what, format, quality, width, height, version }: Render,
	formats: Choices['formats']
): string {
	const found = formats.find(({ id }) => id === format);
	const graded = found?.qualities.length ? QUALITIES[quality ?? ''] : undefined;
	// Of a single window the name says enough.
	const kind = what === 'window' ? undefined : WHATS.find(({ value }) => value === what)?.name;
	const parts = [kind, found?.name ?? format, graded, `${width}×${height}`, `version ${version}`];
	return parts.filter(Boolean).join(', ');
}

/** What a finished render took: ", 2.4 MB, in 12 s". */
export function finishedText({ bytes, started_at, finished_at }: Render): string {
	const took =
		started_at && finished_at
			? `, in ${durationText((Date.parse(finished_at) - Date.parse(started_at)) / 1000)}`
			: '';
	return (bytes === null ? '' : `, ${sizeText(bytes)}`) + took;
}

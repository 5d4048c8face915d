// PNG sequences among the files: the numbered pictures of one name are one clip.

export type Batch = { name: string; files: File[] };

const NUMBERED = /^(.*?)(\d+)\.png$/i;
const FEWEST = 3;

/** `files` as what is sent at once: a run of numbered PNG pictures, or a file by itself. */
export function batches(files: Iterable<File>): Batch[] {
	const found: Batch[] = [];
	const runs: Record<string, Batch> = {};
	for (const file of files) {
		const stem = NUMBERED.exec(file.name)?.[1];
		const run = stem === undefined ? undefined : runs[stem];
		if (run) run.files.push(file);
		else found.push({ name: file.name, files: [file] });
		if (stem !== undefined && !run) runs[stem] = found.at(-1) as Batch;
	}
	return found.flatMap((batch) => {
		if (batch.files.length < FEWEST)
			return batch.files.map((file) => ({ name: file.name, files: [file] }));
		const files = batch.files.toSorted((a, b) => numberOf(a) - numberOf(b));
		return [{ name: sequenceName(files[0] as File), files }];
	});
}

/** The numbers that a sequence leaves out, as text; empty where there is none. */
export function gapsIn(files: File[]): string {
	const numbers = files.map(numberOf);
	const gaps = numbers.slice(1).flatMap((number, n) => {
		const first = (numbers[n] as number) + 1;
		if (first === number) return [];
		return [first === number - 1 ? String(first) : `${first}–${number - 1}`];
	});
	return gaps.join(', ');
}

function numberOf(file: File): number {
	return Number(NUMBERED.exec(file.name)?.[2]);
}

function sequenceName(file: File): string {
	const stem = NUMBERED.exec(file.name)?.[1]?.replace(/[\s._-]+$/, '');
	return stem || 'sequence';
}

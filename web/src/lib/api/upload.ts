// Uploads a file with progress in bytes; the browser's fetch cannot report that.
import { problemText, Refusal, type Clip } from './client';

export type Upload = { done: Promise<Clip>; cancel: () => void };

/** Sends `file`; `onProgress` is told the share sent, 0…1. */
export function upload(file: File, onProgress: (share: number) => void): Upload {
	const request = new XMLHttpRequest();
	const done = new Promise<Clip>((resolve, reject) => {
		request.open('POST', `/api/clips?name=${encodeURIComponent(file.name)}`);
		request.upload.onprogress = (event) => {
			if (event.lengthComputable) onProgress(event.loaded / event.total);
		};
		request.onload = () => {
			const body = parsed(request.responseText);
			if (request.status === 201) resolve(body as Clip);
			else reject(new Refusal(problemText(body), request.status));
		};
		request.onerror = () =>
			reject(new Refusal(`${file.name} did not arrive: the server does not answer.`, 0));
		request.onabort = () => reject(new Refusal(`${file.name} was cancelled.`, 0));
		request.send(file);
	});
	return { done, cancel: () => request.abort() };
}

function parsed(text: string): unknown {
	try {
		return JSON.parse(text);
	} catch {
		return null;
	}
}

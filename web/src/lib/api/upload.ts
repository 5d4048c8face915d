// Uploads a file with progress in bytes; the browser's fetch cannot report that.
import { problemText, Refusal, type Clip } from './client';
import { signedInAgain, signInCount } from './signedFetch';

export type Upload = { done: Promise<Clip>; cancel: () => void };

export type Sent = { name: string; files: File[]; rate: string };

/**
 * Sends a file, or the pictures of a sequence one after another, `rate` of them a second;
 * `onProgress` is called with the share sent, 0…1.
 */
export function upload(sent: Sent, onProgress: (share: number) => void): Upload {
	const request = new XMLHttpRequest();
	const { name, files, rate } = sent;
	const query = new URLSearchParams(files.length > 1 ? { name, rate } : { name });
	const address = `/api/clips${files.length > 1 ? '/sequence' : ''}?${query}`;
	const done = new Promise<Clip>((resolve, reject) => {
		let sentAt = 0;
		const send = () => {
			sentAt = signInCount();
			request.open('POST', address);
			request.setRequestHeader('Content-Type', 'application/octet-stream');
			request.send(new Blob(files));
		};
		request.upload.onprogress = (event) => {
			if (event.lengthComputable) onProgress(event.loaded / event.total);
		};
		request.onload = async () => {
			if (await signedInAgain({ status: request.status, url: address }, sentAt)) return send();
			const body = parsed(request.responseText);
			if (request.status === 201) resolve(body as Clip);
			else reject(new Refusal(problemText(body), request.status));
		};
		request.onerror = () =>
			reject(new Refusal(`${name} did not arrive: the server does not answer.`, 0));
		request.onabort = () => reject(new Refusal(`${name} was cancelled.`, 0));
		send();
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

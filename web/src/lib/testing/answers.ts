// What the API's client gives in tests: an answer, or a refusal with its reason.

export function answered(data: unknown) {
	return { data, response: { ok: true, status: 200 } };
}

export function refused(status: number, message: string) {
	return {
		error: { problems: [{ field: null, message }] },
		response: { ok: false, status }
	};
}

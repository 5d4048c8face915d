import { error } from '@sveltejs/kit';
import { api, Refusal, request } from '$lib/api/client';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params }) => {
	try {
		const path = { params: { path: { edit_id: params.edit } } };
		return { edit: await request(api.GET('/api/edits/{edit_id}', path)) };
	} catch (problem) {
		const status = problem instanceof Refusal ? problem.status : 0;
		error(status || 503, (problem as Error).message);
	}
};

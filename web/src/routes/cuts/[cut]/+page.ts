import { error } from '@sveltejs/kit';
import { api, catalogueOnce, Refusal, request } from '$lib/api/client';
import { Preview } from '$lib/bench/preview/preview.svelte';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params }) => {
	// The preview connects while the cut is loading, so that its first frame comes sooner.
	const preview = new Preview(params.cut);
	try {
		const path = { params: { path: { cut_id: params.cut } } };
		const [cut, catalogue] = await Promise.all([
			request(api.GET('/api/cuts/{cut_id}', path)),
			catalogueOnce()
		]);
		return { cut, catalogue, preview };
	} catch (problem) {
		preview.close();
		const status = problem instanceof Refusal ? problem.status : 0;
		error(status || 503, (problem as Error).message);
	}
};

// Errors that no part of the page has taken: said in words, and written to the console.
import type { HandleClientError } from '@sveltejs/kit';

export const handleError: HandleClientError = ({ error, status, message }) => {
	if (status === 404) return { message: 'There is nothing at this address.' };
	console.error(error);
	// A page of a newer version has other files: loading it again gets them.
	const isOutdated = error instanceof TypeError && /import|module/i.test(error.message);
	return {
		message: isOutdated
			? 'The application was updated. Load the page again.'
			: `This page cannot be shown because of an error in the program. ${message}`
	};
};

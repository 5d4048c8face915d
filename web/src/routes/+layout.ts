// A single page that talks to the API: nothing is rendered on a server.
export const ssr = false;
export const prerender = false;

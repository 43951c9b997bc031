// All work is done in the browser, from its own storage: there is nothing to render on a server.
export const ssr = false;

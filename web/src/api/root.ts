/** The path that the page lies at, without its last slash: behind a proxy that may be below another. */
export const root = new URL('.', location.href).pathname.replace(/\/$/, '');

// Before the first paint, so that a dark room is not lit up: the page that was chosen last, or the system's.
document.documentElement.dataset.theme =
  localStorage.getItem('euphonos.theme') ?? (matchMedia('(prefers-color-scheme: dark)').matches ? 'evening' : 'day');

// A session that is opened by its address is asked for before the program is there.
const asked = /^\/sessions\/([0-9a-f-]{36})\//.exec(location.pathname)?.[1];
if (asked)
  globalThis.euphonosAsked = Object.fromEntries(
    [`sessions/${asked}`, `sessions/${asked}/steps`].map((path) => [path, fetch(`/api/${path}`).catch(() => undefined)]),
  );

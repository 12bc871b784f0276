// Before the first paint, so that a dark room is not lit up: the page that was chosen last, or the system's.
document.documentElement.dataset.theme =
  localStorage.getItem('euphonos.theme') ?? (matchMedia('(prefers-color-scheme: dark)').matches ? 'evening' : 'day');

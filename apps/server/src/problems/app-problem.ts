/** An error that is answered with its status, code and message. */
export class AppProblem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly data: Readonly<Record<string, unknown>> = {},
  ) {
    super(message);
    this.name = 'AppProblem';
  }
}

export const notFound = (what: string): AppProblem =>
  new AppProblem(404, 'not-found', `There is no such ${what}; it may have been deleted.`);

declare module 's3rver' {
  /** Of what it has, what the tests use. */
  export default class S3rver {
    constructor(options: { address: string; port: number; silent: boolean; directory: string; configureBuckets: { name: string }[] });
    run(): Promise<unknown>;
    close(): Promise<void>;
  }
}

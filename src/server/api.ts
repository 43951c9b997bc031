import { createHash, randomBytes, timingSafeEqual } from 'node:crypto';
import { mkdir, rm } from 'node:fs/promises';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { answerOne, answerZip, tell, tellProblem } from './answer';
import { isForFiles, serveFile } from './files';
import { checkForm, readForm } from './form';
import type { Limits } from './limits';
import { openApi } from './openapi';
import { Problem } from './problem';
import { routes, type Route } from './routes';
import type { Place, Runner } from './runner';

export interface ApiOptions {
  readonly limits: Limits;
  readonly runner: Runner;
  /** A folder of its own, for what is sent. */
  readonly folder: string;
  /** Who asks has to say it, where there is one. */
  readonly token?: string;
  /** Workers elsewhere take files from here, and bring what they made. */
  readonly filesByHttp?: boolean;
}

/** After an answer that leaves a request unread, what still comes is let go by for so many ms. */
const LET_GO_BY = 2000;

const digest = (text: string): Buffer => createHash('sha256').update(text).digest();
const same = (a: string, b: string): boolean => timingSafeEqual(digest(a), digest(b));

/** Answers to what is under /api. */
export class Api {
  private under = 0;
  private stopping = false;
  private readonly stopped = new AbortController();
  private idle: (() => void) | null = null;

  constructor(private readonly options: ApiOptions) {}

  /** Whether a request is for this. */
  static isFor = ({ url = '' }: IncomingMessage): boolean => /^\/api(\/|\?|$)/.test(url);

  async handle(request: IncomingMessage, response: ServerResponse): Promise<void> {
    try {
      await this.answer(request, response);
    } catch (error) {
      if (!request.complete && !response.headersSent) response.setHeader('connection', 'close');
      tellProblem(response, error);
    } finally {
      leave(request, response);
    }
  }

  private async answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const { runner } = this.options;
    const { pathname } = new URL(request.url ?? '/', 'http://host');
    if (pathname === '/api/health' || pathname === '/api/openapi.json') {
      checkMethod(request, response, ['GET', 'HEAD']);
      const health = { ok: !this.stopping, requests: this.under, ...runner.state };
      return tell(response, 200, pathname === '/api/health' ? health : openApi(this.options));
    }
    if (this.options.filesByHttp && isForFiles(pathname)) {
      checkMethod(request, response, ['GET', 'PUT']);
      this.checkAsker(request);
      return serveFile(this.options.folder, request, response, pathname);
    }
    const route = Object.hasOwn(routes, pathname) ? routes[pathname] : undefined;
    if (!route)
      throw new Problem(
        'unknown',
        `There is nothing at this address. There is ${Object.keys(routes).join(', ')}; /api/openapi.json tells of them.`
      );
    checkMethod(request, response, ['POST']);
    this.checkAsker(request);
    if (this.stopping) throw new Problem('stopping', 'The server is ending. Ask again when it is back.');
    if (this.under >= this.options.limits.requests)
      throw new Problem('busy', 'As many requests are under way as may be. Ask again in a while.');
    this.under++;
    try {
      await this.work(route, request, response);
    } finally {
      if (--this.under === 0) this.idle?.();
    }
  }

  private checkAsker({ headers }: IncomingMessage): void {
    const { origin, host } = headers;
    // A page of another origin can have a browser send a form here without asking first.
    if (origin !== undefined && hostOf(origin) !== host)
      throw new Problem('foreign-page', 'Pages of another origin are not served.');
    const { token } = this.options;
    if (token !== undefined && !same(headers.authorization ?? '', `Bearer ${token}`))
      throw new Problem('no-token', 'Send the server’s token: “Authorization: Bearer …”.');
  }

  private async work(route: Route, request: IncomingMessage, response: ServerResponse): Promise<void> {
    const { limits, runner } = this.options;
    checkForm(request, limits);
    // Who asks first whether to send is told so when nothing speaks against it.
    if (request.headers.expect !== undefined) response.writeContinue();
    const gone = new AbortController();
    response.on('close', () => {
      if (!response.writableFinished) gone.abort(new Problem('malformed', 'Who asked is gone.'));
    });
    const signal = AbortSignal.any([gone.signal, this.stopped.signal]);
    // Workers elsewhere ask for its files by a name that nobody guesses.
    const folder = join(this.options.folder, `request-${randomBytes(16).toString('hex')}`);
    await mkdir(folder).catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOSPC') throw new Problem('no-room', 'The server’s disk is full.');
      throw error;
    });
    let place: Place | null = null;
    try {
      const files = Object.entries(route.files).map(([name, { most }]) => [name, most(limits)] as const);
      const shape = { texts: Object.keys(route.fields.shape), files: Object.fromEntries(files) };
      const form = await readForm(request, folder, shape, limits);
      const tasks = await route.tasks(form, limits);
      const reserved = (place = runner.reserve(tasks.length, folder));
      const make = (task: (typeof tasks)[number]): ReturnType<Place['run']> => reserved.run(task.job, signal);
      const [only] = tasks;
      if (tasks.length === 1) await answerOne(response, only, await make(only));
      else await answerZip(response, tasks, availableParallelism(), make, signal);
    } catch (error) {
      // Where who asked is gone, whatever else went wrong comes of that.
      const reason: unknown = gone.signal.aborted ? gone.signal.reason : error;
      gone.abort(reason);
      throw reason;
    } finally {
      place?.free();
      await rm(folder, { recursive: true, force: true });
    }
  }

  /** Takes nothing more on; resolves when all that is under way is answered, or was stopped after so many ms. */
  async end(within: number): Promise<void> {
    this.stopping = true;
    if (this.under > 0) {
      const timer = setTimeout(
        () => this.stopped.abort(new Problem('stopping', 'The server is ending, and stopped the work.')),
        within
      );
      await new Promise<void>((resolve) => (this.idle = resolve));
      clearTimeout(timer);
    }
    await this.options.runner.close();
  }
}

/** Of an origin as a browser says it; null of none that can be told. */
function hostOf(origin: string): string | null {
  try {
    return new URL(origin).host;
  } catch {
    return null;
  }
}

function checkMethod(
  { method = '' }: IncomingMessage,
  response: ServerResponse,
  known: readonly string[]
): void {
  if (known.includes(method)) return;
  response.setHeader('allow', known.join(', '));
  throw new Problem('method', `Ask by ${known[0]}.`);
}

/** A request that is not read to its end: what comes is let go by for a moment, so that the answer is seen; then the line is closed. */
function leave(request: IncomingMessage, response: ServerResponse): void {
  if (request.complete) return;
  request.resume();
  const close = (): void => void request.destroy();
  const timer = setTimeout(close, LET_GO_BY);
  request.on('end', () => clearTimeout(timer));
  request.on('error', () => undefined);
  response.on('error', () => undefined);
}

/** Ends this process in order at SIGTERM or SIGINT. @param still what is done before */
export function endWhenAsked(still: string, end: () => Promise<void>): void {
  let ending = false;
  const stop = (): void => {
    if (ending) return;
    ending = true;
    process.stderr.write(`Ending: ${still} …\n`);
    void end().then(() => process.exit(0));
  };
  process.on('SIGTERM', stop).on('SIGINT', stop);
}

/** The part of AssemblyScript's compiler that is used here; its own types ask for the whole toolchain. */
declare module 'assemblyscript/asc' {
  const asc: {
    main(
      options: readonly string[],
      host: {
        stderr: { write(text: string): void };
        readFile(name: string): string | null;
        writeFile(name: string, content: string | Uint8Array): void;
      }
    ): Promise<{ error: Error | null }>;
  };
  export default asc;
}

import { readFileSync, writeFileSync } from 'node:fs';
import asc from 'assemblyscript/asc';

const SOURCE = 'src/core/kernels/assembly/index.ts';
const TARGET = 'src/core/kernels/binary.ts';

/** The kernels compiled from AssemblyScript. @throws Error with the compiler's words */
export async function compileKernels(): Promise<Uint8Array> {
  const said: string[] = [];
  let binary: Uint8Array | null = null;
  const options = ['--outFile', 'kernels.wasm', '--enable', 'simd', '--runtime', 'stub', '-O3', '--noAssert'];
  const { error } = await asc.main([SOURCE, ...options, '--initialMemory', '64'], {
    stderr: { write: (text: string) => void said.push(text) },
    readFile: (name: string) => {
      try {
        return readFileSync(name, 'utf8');
      } catch {
        return null;
      }
    },
    writeFile: (_: string, content: string | Uint8Array) => {
      if (typeof content !== 'string') binary = content;
    }
  });
  if (error || !binary) throw new Error(`The kernels do not compile: ${said.join('')}`);
  return binary;
}

if (process.argv[1]?.endsWith('kernels.ts')) {
  const base64 = Buffer.from(await compileKernels()).toString('base64');
  const head = '/** Made by `npm run kernels` from assembly/; a test holds the two together. */\n';
  writeFileSync(TARGET, `${head}export const KERNELS =\n  '${base64}';\n`);
}

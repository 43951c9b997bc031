import { createHash } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import { join, relative } from 'node:path';

/**
 * One hash over the content of every file below `paths`, tests left out, wherever the root is.
 * @param {readonly string[]} paths @param {string} [root]
 */
export function hashOf(paths, root = '.') {
  const hash = createHash('sha256');
  for (const path of paths) {
    const whole = join(root, path);
    const found = path.includes('.')
      ? [whole]
      : readdirSync(whole, { recursive: true, withFileTypes: true })
          .filter((e) => e.isFile())
          .map((e) => join(e.parentPath, e.name))
          .sort();
    for (const file of found)
      if (!file.endsWith('.test.ts')) hash.update(relative(root, file)).update(readFileSync(file));
  }
  return hash.digest('hex');
}

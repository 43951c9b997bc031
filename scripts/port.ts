export const USUAL_PORT = 4173;

/** The port that is asked for. @throws Error where it is none */
export function portIn(env: Readonly<Record<string, string | undefined>>): number {
  const port = Number(env['PORT'] ?? USUAL_PORT);
  if (Number.isInteger(port) && port >= 0 && port <= 65535) return port;
  throw new Error(`PORT=${env['PORT']} is no port; use a number from 0 to 65535.`);
}

import { parseArgs } from 'node:util';
import { writeCube } from '../src/core/files/cube';
import { openFrame } from '../src/core/files/open-frame';
import { bake, errorBetween, stepOfTable, titleOfAsking } from '../src/core/lut/bake';
import { opOf } from '../src/core/ops';
import { Planner } from '../src/core/path/planner';
import { greyPixel } from '../src/core/raster/frame';
import { provideNodeWasm } from '../src/engine/node/wasm';
import { lookIn, lookOnFrames } from './beside';
import { command, readInput, writeOutput } from './command';

const USAGE =
  'Usage: npm run -s bake -- LOOK.json [IMAGE] --size 17|33|65 --out FILE.cube [--title TEXT] [--domain LOW,HIGH] [--plain] [--report]';
const SIZES = ['17', '33', '65'];

function domainOf(text: string): [number, number] {
  const [low, high] = text.split(',').map(Number);
  if (!(low < high)) throw new Error(`--domain ${text}: give two numbers, LOW,HIGH, that rise.`);
  return [low, high];
}

await command(async () => {
  const { values, positionals } = parseArgs({
    allowPositionals: true,
    options: {
      size: { type: 'string', default: '33' },
      out: { type: 'string' },
      title: { type: 'string' },
      domain: { type: 'string', default: '0,1' },
      plain: { type: 'boolean', default: false },
      report: { type: 'boolean', default: false }
    }
  });
  const [path, image] = positionals;
  if (!path || positionals.length > 2 || !values.out) throw new Error(USAGE);
  if (!SIZES.includes(values.size)) throw new Error(`--size ${values.size}: use ${SIZES.join(', ')}.`);
  const [low, high] = domainOf(values.domain);
  provideNodeWasm();
  const look = await lookIn(path);
  const source = await lookOnFrames(path, look);
  const asks = titleOfAsking(look.steps);
  if (asks !== null && !image)
    throw new Error(`${path}: “${asks}” is solved from a picture. Name the image after the look.`);
  const frame = image ? (await openFrame(await readInput(image))).frame : greyPixel();
  const planner = new Planner(() => frame);
  const plan = planner.plan(source('frame', frame));
  const title = values.title ?? look.name;
  const baked = bake(plan, { title, size: Number(values.size), low, high, curves: !values.plain });
  await writeOutput(values.out, writeCube(baked.table));
  for (const { title: name, why } of baked.steps)
    if (why.length > 0) process.stderr.write(`“${name}” is left out: ${why.join('; ')}.\n`);
  if (values.report) {
    const { steps, error, table: made } = baked;
    const { steps: all, ...rest } = source('frame', frame);
    const moving = all.filter(({ op }) => opOf(op).kind === 'geometry');
    const other = { ...rest, steps: [...moving, stepOfTable(made)] };
    const picture = image ? errorBetween(plan, planner.plan(other)) : null;
    const report = {
      title,
      size: Number(values.size),
      domain: [low, high],
      curves: made.curves !== null,
      steps,
      error,
      picture
    };
    process.stdout.write(`${JSON.stringify(report, null, 2)}\n`);
  }
});

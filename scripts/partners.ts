import { existsSync } from 'node:fs';
import { spawned } from './spawned';

/** Programs of Debian's that some tests compare with; what can't be had is told, and those tests are left out. */
const partners = [
  {
    name: 'redis-server',
    path: '/usr/bin/redis-server',
    checks: 'work that is put on a queue for workers on other machines'
  },
  { name: 'curl', path: '/usr/bin/curl', checks: 'the lines of docs/api.md' },
  {
    name: 'libimage-exiftool-perl',
    path: '/usr/bin/exiftool',
    checks: 'EXIF, IPTC and XMP in files of all formats against ExifTool'
  },
  {
    name: 'liblcms2-utils',
    path: '/usr/bin/transicc',
    checks: 'colour spaces and their profiles against lcms'
  },
  {
    name: 'libjxl-tools',
    path: '/usr/bin/cjxl',
    checks: 'JPEG XL read here against libjxl'
  },
  {
    name: 'libavif-bin',
    path: '/usr/bin/avifdec',
    checks: 'AVIF read here against libavif'
  },
  { name: 'ffmpeg', path: '/usr/bin/ffmpeg', checks: 'the LUT step against its lut3d' },
  {
    name: 'python3-astropy',
    path: '/usr/lib/python3/dist-packages/astropy',
    checks: 'FITS files of every kind, read here and written here, against astropy'
  }
];

/** Puts partners there that are missing, where this may be done. @returns what can't be checked for the lack of one */
export async function ensurePartners(): Promise<string[]> {
  const missing = partners.filter(({ path }) => !existsSync(path));
  if (missing.length > 0 && process.getuid?.() === 0) {
    const names = missing.map(({ name }) => name).join(' ');
    process.stderr.write(`Installing ${names} from Debian’s packages …\n`);
    for (const command of ['apt-get update -q', `apt-get install -qy --no-install-recommends ${names}`])
      await spawned('sh', ['-c', command], ['ignore', 'ignore', 2]);
  }
  return partners
    .filter(({ path }) => !existsSync(path))
    .map(({ name, checks }) => `Not checked, as ${name} is not here and can’t be installed: ${checks}.`);
}

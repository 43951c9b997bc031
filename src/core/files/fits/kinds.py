"""Writes FITS files of every kind with astropy, and beside each the values that it holds (float64, row by row from the first)."""
import gzip
import sys
import warnings
from pathlib import Path

import numpy as np
from astropy.io import fits

warnings.simplefilter("ignore")
out = Path(sys.argv[1])
random = np.random.default_rng(7)
H, W = 45, 70
light = np.cumsum(random.normal(0, 1, (H, W)), axis=1)
light = (light - light.min()) / (light.max() - light.min())


def keep(name, hdus, index=0, values=None):
    fits.HDUList(hdus).writeto(out / f"{name}.fits", overwrite=True, checksum=True)
    if values is None:
        with fits.open(out / f"{name}.fits") as read:
            values = np.array(read[index].data, dtype=np.float64)
    values.astype(np.float64).tofile(out / f"{name}.raw")


def image(data, **cards):
    hdu = fits.PrimaryHDU(data)
    hdu.header.update(cards)
    return hdu


keep("u8", [image((255 * light).astype(np.uint8))])
keep("i8", [image((255 * light - 128).astype(np.int8))])
keep("i16", [image((60000 * light - 30000).astype(np.int16))])
keep("u16", [image((65535 * light).astype(np.uint16))])
keep("i32", [image((4e9 * light - 2e9).astype(np.int32))])
keep("u32", [image((4.2e9 * light).astype(np.uint32))])
keep("i64", [image((1e15 * light).astype(np.int64))])
keep("u64", [image((1e15 * light).astype(np.uint64))])
keep("f32", [image(light.astype(np.float32))])
keep("f64", [image((40000 * light).astype(np.float64))])
holes = light.astype(np.float32).copy()
holes[3, 5] = np.nan
holes[10, 20] = np.inf
keep("nan", [image(holes)])
keep("three", [image(np.stack([light, light**2, 1 - light]).astype(np.float32))])
keep("four", [image(np.stack([light, light**2, 1 - light, light**3]).astype(np.float32))])
keep("deep", [image(light.astype(np.float32).reshape(1, 1, H, W))])

scaled = fits.PrimaryHDU(np.arange(H * W).reshape(H, W).astype(np.float32) * 0.25 + 100)
scaled.scale("int16", bscale=0.25, bzero=100 + 0.25 * 0)
keep("scaled", [scaled])

blank = fits.PrimaryHDU((1000 * light).astype(np.int16))
blank.header["BLANK"] = 7
raw = blank.data.copy()
raw[2, 2] = 7
blank.data = raw
values = raw.astype(np.float64)
values[raw == 7] = np.nan
keep("blank", [blank], values=values)

empty = fits.PrimaryHDU()
sci = fits.ImageHDU(light.astype(np.float32), name="SCI")
err = fits.ImageHDU((light / 10).astype(np.float32), name="ERR")
keep("extensions", [empty, sci, err], index=1)

down = image(light.astype(np.float32), ROWORDER="TOP-DOWN", OBJECT="Lantern", FILTER="H", EXPTIME=300.0)
down.header["LONGTEXT"] = "A text that is far longer than what fits into the eighty letters of one card, so that it goes on in a second one."
down.header["HIERARCH KILN ROOM TEMP"] = 18.5
down.header["QUOTED"] = "the potter's jug"
down.header["POWER"] = 1.5e-7
down.header.add_history("Made by astropy.")
keep("topdown", [down])

with open(out / "u16.fits", "rb") as plain, gzip.open(out / "gz.fits", "wb") as packed:
    packed.write(plain.read())
(out / "gz.raw").write_bytes((out / "u16.raw").read_bytes())

ints = {
    "u8": (255 * light).astype(np.uint8),
    "i16": (60000 * light - 30000).astype(np.int16),
    "u16": (65535 * light).astype(np.uint16),
    "i32": (1e8 * light).astype(np.int32),
}
for kind in ["RICE_1", "GZIP_1", "GZIP_2"]:
    for name, data in ints.items():
        for tile in [None, (16, 16)]:
            hdu = fits.CompImageHDU(data, compression_type=kind, tile_size=tile)
            keep(f"{kind}-{name}-{'tiles' if tile else 'rows'}", [empty, hdu], index=1)
keep("PLIO_1", [empty, fits.CompImageHDU((300 * light).astype(np.int16) // 100, compression_type="PLIO_1")], index=1)
cube = np.stack([ints["i16"], ints["i16"] // 2, -ints["i16"]])
keep("RICE_1-three", [empty, fits.CompImageHDU(cube, compression_type="RICE_1")], index=1)
noisy = (light + random.normal(0, 0.01, (H, W))).astype(np.float32)
noisy[5, 5] = 0
for kind in ["RICE_1", "GZIP_1", "GZIP_2"]:
    for method in [-1, 1, 2]:
        hdu = fits.CompImageHDU(noisy, compression_type=kind, quantize_level=16, quantize_method=method, dither_seed=4321)
        keep(f"{kind}-float{method}", [empty, hdu], index=1)
    hdu = fits.CompImageHDU(noisy, compression_type=kind, quantize_level=0) if kind != "RICE_1" else None
    if hdu:
        keep(f"{kind}-floats", [empty, hdu], index=1)
withholes = noisy.copy()
withholes[7, 9] = np.nan
keep("RICE_1-nan", [empty, fits.CompImageHDU(withholes, compression_type="RICE_1", quantize_level=16)], index=1)
keep("HCOMPRESS_1", [empty, fits.CompImageHDU(ints["i16"], compression_type="HCOMPRESS_1", tile_size=(W, H))], index=1)

"""Reads a FITS file with astropy and says as JSON what it finds; its values go beside it (float64, row by row from the first)."""
import json
import sys
import warnings

import numpy as np
from astropy.io import fits

warnings.simplefilter("error")
path = sys.argv[1]
with fits.open(path, checksum=True) as hdus:
    hdus.verify("exception")
    [hdu] = hdus
    np.array(hdu.data, dtype=np.float64).tofile(f"{path}.raw")
    print(
        json.dumps(
            {
                "shape": hdu.data.shape,
                "type": str(hdu.data.dtype),
                "checksum": hdu.verify_checksum(),
                "datasum": hdu.verify_datasum(),
                "cards": {key: hdu.header[key] for key in hdu.header if key not in ("HISTORY", "COMMENT", "")},
                "history": [str(line) for line in hdu.header.get("HISTORY", [])],
            }
        )
    )

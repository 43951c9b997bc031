/** Files that frames are made of, and those of tables, as a file dialog is told of them; the list of formats itself is loaded later. */
export const IMAGE_FILES = '.png,.jpg,.jpeg,.tif,.tiff,.webp,.avif,.jxl,.fits,.fit,.fts,.gz';
export const IMAGE_FORMATS = 'PNG, JPEG, TIFF, WebP, AVIF, JPEG XL or FITS';
export const TABLE_FILES = '.cube,.png,.tif,.tiff';

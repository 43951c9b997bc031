/** Files that frames are made of, and those of tables, as a file dialog is told of them. */
export const IMAGE_FILES = '.png,.jpg,.jpeg,.tif,.tiff,.fits,.fit,.fts,.gz';
export const TABLE_FILES = '.cube,.png,.tif,.tiff';

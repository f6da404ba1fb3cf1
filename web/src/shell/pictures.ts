/** Files a person may choose as a picture: what browsers know, and what the server reads besides. */
export const PICTURES = 'image/*,.jpg,.jpeg,.png,.webp,.tif,.tiff,.bmp,.exr,.hdr,.dng,.nef,.nrw,.cr2,.cr3,.arw,.raf,.orf,.rw2,.pef,.srw,.iiq,.3fr,.mrw'

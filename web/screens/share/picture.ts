import { dotsPerUnit } from '../../../core/formats/index.js';

/** A drawing as the address of an image. */
export function imageAddress(svg: string): string {
  return `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`;
}

/** A drawing as a picture of dots (PNG). @throws where the browser cannot draw it */
export async function pngOf(svg: string): Promise<Blob> {
  const image = new Image();
  image.src = imageAddress(svg);
  await image.decode();
  const { naturalWidth: width, naturalHeight: height } = image;
  const scale = dotsPerUnit({ width, height });
  const canvas = document.createElement('canvas');
  canvas.width = Math.ceil(width * scale);
  canvas.height = Math.ceil(height * scale);
  canvas.getContext('2d')?.drawImage(image, 0, 0, canvas.width, canvas.height);
  return new Promise((done, failed) => {
    canvas.toBlob(
      (blob) => (blob === null ? failed(new Error('The browser could not draw the picture.')) : done(blob)),
      'image/png',
    );
  });
}

// What colours the screen can show: pictures are asked for and painted in Display P3 where it has more than sRGB.
export const SPACE = window.matchMedia("(color-gamut: p3)").matches ? "display-p3" : "srgb";
export const penOf = (canvas) => canvas.getContext("2d", { colorSpace: SPACE });

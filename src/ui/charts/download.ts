/** Properties of a drawing that come from style sheets and have to be written into a file. */
const PAINTED = ["fill", "stroke", "stroke-width", "stroke-dasharray", "opacity", "font-size", "font-family"];
const TITLE_HEIGHT = 26;
const SCALE = 2;
const SPACE = "http://www.w3.org/2000/svg";

/** A copy of a drawing that needs no style sheet, with its title above it. */
function standalone(drawing: SVGSVGElement, title: string): SVGSVGElement {
  const copy = drawing.cloneNode(true) as SVGSVGElement;
  const originals = [drawing, ...drawing.querySelectorAll("*")];
  const copies = [copy, ...copy.querySelectorAll("*")];
  originals.forEach((original, index) => {
    const computed = getComputedStyle(original);
    for (const name of PAINTED) copies[index]!.setAttribute(name, computed.getPropertyValue(name));
    copies[index]!.removeAttribute("class");
  });
  const { width, height } = drawing.getBoundingClientRect();
  const page = getComputedStyle(document.documentElement);
  const paper = document.createElementNS(SPACE, "rect");
  paper.setAttribute("width", String(width));
  paper.setAttribute("height", String(height + TITLE_HEIGHT));
  paper.setAttribute("y", String(-TITLE_HEIGHT));
  paper.setAttribute("fill", page.getPropertyValue("--paper"));
  const heading = document.createElementNS(SPACE, "text");
  heading.setAttribute("x", "8");
  heading.setAttribute("y", "-8");
  heading.setAttribute("font-family", "sans-serif");
  heading.setAttribute("font-size", "14");
  heading.setAttribute("fill", page.getPropertyValue("--ink"));
  heading.textContent = title;
  copy.setAttribute("width", String(width));
  copy.setAttribute("height", String(height));
  // The drawing stays a drawing of its own within, so that it keeps its scale.
  const sheet = document.createElementNS(SPACE, "svg");
  sheet.setAttribute("xmlns", SPACE);
  sheet.setAttribute("width", String(width));
  sheet.setAttribute("height", String(height + TITLE_HEIGHT));
  sheet.setAttribute("viewBox", `0 ${-TITLE_HEIGHT} ${width} ${height + TITLE_HEIGHT}`);
  sheet.append(paper, heading, copy);
  return sheet;
}

function save(content: Blob, name: string): void {
  const address = URL.createObjectURL(content);
  const link = document.createElement("a");
  link.href = address;
  link.download = name;
  link.click();
  URL.revokeObjectURL(address);
}

const fileName = (title: string, ending: string): string =>
  `${title
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, "-")
    .replace(/^-|-$/g, "")}.${ending}`;

/** Saves a drawing as an SVG file. */
export function downloadSvg(drawing: SVGSVGElement, title: string): void {
  const text = new XMLSerializer().serializeToString(standalone(drawing, title));
  save(new Blob([text], { type: "image/svg+xml" }), fileName(title, "svg"));
}

/** Saves a drawing as a PNG file at twice its size. */
export async function downloadPng(drawing: SVGSVGElement, title: string): Promise<void> {
  const copy = standalone(drawing, title);
  const [width, height] = [Number(copy.getAttribute("width")), Number(copy.getAttribute("height"))];
  const image = new Image(width, height);
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(new XMLSerializer().serializeToString(copy))}`;
  await image.decode();
  const canvas = document.createElement("canvas");
  canvas.width = width * SCALE;
  canvas.height = height * SCALE;
  canvas.getContext("2d")?.drawImage(image, 0, 0, canvas.width, canvas.height);
  canvas.toBlob((content) => {
    if (content) save(content, fileName(title, "png"));
  });
}

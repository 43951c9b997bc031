import { DOMParser, XMLSerializer, type Document, type Element } from '@xmldom/xmldom';
import type { MetadataEdit } from '.';

/** XMP (ISO 16684-1): RDF of properties, each an attribute of a description or an element in it. */
const RDF = 'http://www.w3.org/1999/02/22-rdf-syntax-ns#';
const XMP_MM = 'http://ns.adobe.com/xap/1.0/mm/';
const EVENT = 'http://ns.adobe.com/xap/1.0/sType/ResourceEvent#';
const NOTE = 'http://ns.adobe.com/xmp/note/';
const XMLNS = 'http://www.w3.org/2000/xmlns/';

/** What is not true of a picture that was made of another: how its pixels were stored, its small pictures. */
const STORED = [
  'Thumbnails',
  'BitsPerSample',
  'Compression',
  'PhotometricInterpretation',
  'SamplesPerPixel',
  'PlanarConfiguration',
  'YCbCrSubSampling',
  'YCbCrPositioning',
  'TransferFunction',
  'WhitePoint',
  'PrimaryChromaticities',
  'YCbCrCoefficients',
  'ReferenceBlackWhite',
  'ComponentsConfiguration',
  'CompressedBitsPerPixel',
  'Gamma',
  'ICCProfile'
];
/** What tells where it was taken, with what, and by whose camera: names of EXIF for XMP and of IPTC Core and Extension. */
const PLACES =
  /^(GPS.*|.*(Latitude|Longitude|Altitude)|Make|Model|MakerNote|Lens.*|.*SerialNumber|CameraOwnerName|OwnerName|UniqueCameraModel|ImageUniqueID|CameraProfile|Firmware|ImageNumber|FlashCompensation|ApproximateFocusDistance|City|State|Country|CountryCode|Location|LocationCreated|LocationShown|HostComputer)$/i;

/** Larger ones take too long to be gone through. */
const LARGEST = 2 ** 23;

const SPACES = { srgb: '1', 'adobe-rgb': '65535', other: '65535' } as const;

/** @returns null where it is no XML with RDF in it */
function parsed(text: string): { document: Document; rdf: Element } | null {
  let broken = false;
  try {
    const document = new DOMParser({
      onError: (level) => {
        if (level !== 'warning') broken = true;
      }
    }).parseFromString(text, 'text/xml');
    const rdf = document.getElementsByTagNameNS(RDF, 'RDF')[0];
    return broken || !rdf ? null : { document, rdf };
  } catch {
    return null;
  }
}

const childrenOf = (element: Element): Element[] =>
  [...element.childNodes].filter((node): node is Element => node.nodeType === 1);
const descriptionsOf = (rdf: Element): Element[] =>
  childrenOf(rdf).filter((e) => e.namespaceURI === RDF && e.localName === 'Description');

const EMPTY = `<?xpacket begin="\uFEFF" id="W5M0MpCehiHzreSzNTczkc9d"?><x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="${RDF}"></rdf:RDF></x:xmpmeta><?xpacket end="w"?>`;

const textOf = (bytes: Uint8Array): string | null => {
  try {
    return new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes);
  } catch {
    return null;
  }
};

/**
 * A packet for a picture that was made of the one that it came with; one that holds nothing untrue stays as it is, byte for byte.
 * @returns null where it can't be read
 */
export function editedXmp(bytes: Uint8Array | null, edit: MetadataEdit): Uint8Array | null {
  if (bytes && bytes.length > LARGEST) return null;
  const text = bytes ? textOf(bytes) : EMPTY;
  const packet = text === null ? null : parsed(text);
  if (!packet) return null;
  const values: Record<string, string> = {
    Orientation: '1',
    ImageWidth: `${edit.width}`,
    ImageLength: `${edit.height}`,
    PixelXDimension: `${edit.width}`,
    PixelYDimension: `${edit.height}`,
    ColorSpace: SPACES[edit.space]
  };
  let changed = false;
  const isGone = (name: string): boolean => STORED.includes(name) || (edit.withoutPlace && PLACES.test(name));
  for (const description of descriptionsOf(packet.rdf)) {
    for (const attribute of [...description.attributes]) {
      if ([RDF, XMLNS].includes(attribute.namespaceURI ?? '')) continue;
      const name = attribute.localName ?? '';
      if (isGone(name)) description.removeAttributeNode(attribute);
      else if (name in values && attribute.value !== values[name]) attribute.value = values[name];
      else continue;
      changed = true;
    }
    for (const element of childrenOf(description)) {
      const name = element.localName ?? '';
      if (isGone(name)) description.removeChild(element);
      else if (name in values && element.textContent !== values[name]) element.textContent = values[name];
      else continue;
      changed = true;
    }
  }
  if (edit.history.length > 0) {
    addHistory(packet.document, packet.rdf, edit.history);
    changed = true;
  }
  if (!changed) return bytes;
  return new TextEncoder().encode(new XMLSerializer().serializeToString(packet.document));
}

/** What was done, as events of the history that the packet has already, or of one of its own. */
function addHistory(document: Document, rdf: Element, history: readonly string[]): void {
  const named = (space: string, name: string): Element | undefined =>
    descriptionsOf(rdf)
      .flatMap(childrenOf)
      .find((e) => e.namespaceURI === space && e.localName === name);
  const add = (to: Element, space: string, name: string): Element => {
    const element = document.createElementNS(space, name);
    to.appendChild(element);
    return element;
  };
  let list = named(XMP_MM, 'History');
  if (!list) {
    const description = add(rdf, RDF, 'rdf:Description');
    description.setAttributeNS(RDF, 'rdf:about', descriptionsOf(rdf)[0]?.getAttributeNS(RDF, 'about') ?? '');
    list = add(description, XMP_MM, 'xmpMM:History');
  }
  const sequence = childrenOf(list)[0] ?? add(list, RDF, 'rdf:Seq');
  for (const sentence of history) {
    const event = add(sequence, RDF, 'rdf:li');
    event.setAttributeNS(RDF, 'rdf:parseType', 'Resource');
    for (const [name, value] of [
      ['action', 'edited'],
      ['softwareAgent', 'Kromba'],
      ['parameters', sentence]
    ])
      add(event, EVENT, `stEvt:${name}`).textContent = value;
  }
}

/** The packet of a JPEG with what did not fit into its segment (ISO 16684-3, 7.4.2): the descriptions of both. */
export function joinedXmp(packet: Uint8Array, more: Uint8Array): Uint8Array {
  const [main, extension] = [packet, more].map((bytes) => {
    const text = textOf(bytes);
    return text === null ? null : parsed(text);
  });
  if (!main || !extension) return packet;
  for (const description of descriptionsOf(main.rdf)) {
    description.removeAttributeNS(NOTE, 'HasExtendedXMP');
    for (const element of childrenOf(description))
      if (element.namespaceURI === NOTE && element.localName === 'HasExtendedXMP')
        description.removeChild(element);
  }
  for (const description of descriptionsOf(extension.rdf))
    main.rdf.appendChild(main.document.importNode(description, true));
  return new TextEncoder().encode(new XMLSerializer().serializeToString(main.document));
}

/** The packet that names one which goes on elsewhere. @param digest its MD5, in capital letters */
export const xmpNaming = (digest: string): Uint8Array =>
  new TextEncoder().encode(
    EMPTY.replace(
      '</rdf:RDF>',
      `<rdf:Description rdf:about="" xmlns:xmpNote="${NOTE}" xmpNote:HasExtendedXMP="${digest}"/></rdf:RDF>`
    )
  );

/** What of a packet goes on elsewhere: its RDF, without what is around it. */
export function xmpBody(bytes: Uint8Array): Uint8Array | null {
  const text = textOf(bytes);
  const packet = text === null ? null : parsed(text);
  return packet && new TextEncoder().encode(new XMLSerializer().serializeToString(packet.rdf));
}

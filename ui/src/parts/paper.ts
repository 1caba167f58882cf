import { t } from '@lingui/core/macro';
import type { Schemas } from '../api/call';
import { plural, showTime } from '../base/format';

type Paper = Schemas['PaperView'];

/** Where the document is that a sheet is in. */
export const pdfOf = (p: Paper) => `/api/documents/${p.run}.pdf`;

/** What has become of the document that a sheet is in. */
export function paperState(p: Paper): string {
  if (p.state === 'drawing') return t`being drawn`;
  const pages = plural(p.pages, 'page');
  if (p.state === 'printed') return t`${pages}, printed`;
  return p.trouble ? t`${pages}: ${p.trouble}` : pages;
}

/** Why a sheet is void, since when, and what stands in its place; nothing while it stands. */
export function voidText(p: Paper): string {
  if (!p.void_why) return '';
  const by = `${p.void_who ?? ''}, ${showTime(p.void_at ?? '')}`;
  if (p.void_why === 'printed again') return p.standing ? t`printed again as ${p.standing} (${by})` : t`printed again (${by})`;
  if (p.void_why === 'sent otherwise') return t`it goes elsewhere, or in another way (${by})`;
  if (p.void_why === 'unpacked') return t`${p.package ?? ''} was unpacked (${by})`;
  return p.void_reason ? t`something on it was recalled (${by}: “${p.void_reason}”)` : t`something on it was recalled (${by})`;
}

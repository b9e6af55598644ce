import type { FramedTool } from '@bathyscribe/core/links'
import type { Parameter } from '@bathyscribe/core/oauth1'
import type { WalkRequest } from '../walk.js'

/** A launch as a browser is to follow it. */
export interface BrowserLaunch extends FramedTool {
  platformUrl: string
  target: 'frame' | 'window'
  /** The form that begins it. */
  url: string
  fields: readonly Parameter[]
  returnUrl: string
  /** Where the tool asks for an id_token, and what it is answered; LTI 1.3 only. @returns what is wrong with the request, in words, when something is */
  authorizationUrl?: string
  answer?: (asked: WalkRequest) => Promise<{ url: string; fields: readonly Parameter[] } | string>
  signal?: AbortSignal | undefined
}

/** The pages that tools are shown in: the service's own, so that a frame is framed here as it is for people. */
export interface StagePages {
  assets: Readonly<Record<string, { type: string; text: string }>>
  form(form: { url: string; fields: readonly Parameter[]; doing: string }): {
    headers: Record<string, string>
    text: string
  }
  stage(stage: FramedTool & { title: string; source: string }): {
    headers: Record<string, string>
    text: string
  }
}

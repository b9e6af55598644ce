/** What a tool's page may be let use of a device or window while it stands in a frame of ours, if its registration says so. */
export const FRAME_PERMISSIONS = ['camera', 'microphone', 'screen_sharing', 'clipboard', 'full_screen'] as const
export type FramePermission = (typeof FRAME_PERMISSIONS)[number]

/** What each is called where browsers are told (Permissions Policy section 4; Clipboard API section 8.3: to write, which is what pages do for people who press “copy”). */
export const POLICY_FEATURES: Readonly<Record<FramePermission, string>> = {
  camera: 'camera',
  microphone: 'microphone',
  screen_sharing: 'display-capture',
  clipboard: 'clipboard-write',
  full_screen: 'fullscreen',
}

/** A tool as its frame meets it. */
export interface FramedTool {
  /** What may be framed, such as `https://tool.example`. */
  origins: readonly string[]
  /** What their pages may use there. */
  permissions: readonly FramePermission[]
}

/** What plays by itself or beside the page takes nothing of a person's: every frame has it. */
const ALWAYS = ['autoplay', 'picture-in-picture']

/**
 * The `allow` of a tool's frame (Permissions Policy section 5.1): the browser still asks the person, and what is not named is shut. What the frame begins with is our own page, so
 * the tool's origins have to be named, and no other has anything of it.
 * @param origins such as `https://tool.example`
 */
export function frameAllowance(permissions: readonly FramePermission[], origins: readonly string[]): string {
  return [...ALWAYS, ...permissions.map((one) => POLICY_FEATURES[one])]
    .map((feature) => [feature, "'self'", ...origins].join(' '))
    .join('; ')
}

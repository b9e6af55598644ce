import { escape } from './page.js'

/** A tool's configuration of LTI 1.x, as vendors publish it at an address. */
export function toolConfigurationXml(tool: {
  title: string
  description: string
  launchUrl: string
  custom?: Record<string, string>
  vendor: { name: string; email: string }
}): string {
  const custom = Object.entries(tool.custom ?? {}).map(
    ([name, value]) => `<lticm:property name="${escape(name)}">${escape(value)}</lticm:property>`,
  )
  return `<?xml version="1.0" encoding="UTF-8"?>
<cartridge_basiclti_link xmlns="http://www.imsglobal.org/xsd/imslticc_v1p0"
  xmlns:blti="http://www.imsglobal.org/xsd/imsbasiclti_v1p0" xmlns:lticm="http://www.imsglobal.org/xsd/imslticm_v1p0"
  xmlns:lticp="http://www.imsglobal.org/xsd/imslticp_v1p0">
  <blti:title>${escape(tool.title)}</blti:title>
  <blti:description>${escape(tool.description)}</blti:description>
  <blti:launch_url>${escape(tool.launchUrl)}</blti:launch_url>
  ${custom.length > 0 ? `<blti:custom>${custom.join('')}</blti:custom>` : ''}
  <blti:vendor><lticp:code>${escape(tool.title.toLowerCase().replace(/\W+/g, '-'))}</lticp:code><lticp:name>${escape(tool.vendor.name)}</lticp:name><lticp:contact><lticp:email>${escape(tool.vendor.email)}</lticp:email></lticp:contact></blti:vendor>
</cartridge_basiclti_link>
`
}

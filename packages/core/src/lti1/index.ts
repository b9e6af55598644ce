export { customParameters } from './custom-parameters.js'
export {
  DOCUMENT_TARGETS,
  launchParameters,
  signLaunch,
  type DocumentTarget,
  type LaunchFacts,
  type LinkFacts,
  type PlatformFacts,
} from './launch.js'
export {
  OUTCOMES_MAX_BYTES,
  OUTCOMES_NAMESPACE,
  OUTCOMES_OPERATIONS,
  readOutcomesRequest,
  writeOutcomesRequest,
  type OutcomesOperation,
  type OutcomesProblem,
  type OutcomesRequest,
} from './outcomes-request.js'
export { readOutcomesResponse, writeOutcomesResponse, type OutcomesResponse } from './outcomes-response.js'
export { readResultId, writeResultId, type ResultTarget } from './result-id.js'
export { readToolConfiguration, type ConfigurationProblem, type ToolConfiguration } from './tool-configuration.js'
export { pickerParameters, readContentItems, type PickerFacts } from './content-items.js'

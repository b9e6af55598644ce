export {
  ASSIGNMENT_COLUMNS,
  readAssignmentTable,
  type AssignmentColumn,
  type AssignmentRow,
} from './assignment-table.js'
export {
  isFormula,
  readTable,
  TABLE_MAX_CHARACTERS,
  TABLE_MAX_ROWS,
  writeTable,
  type Table,
  type TableProblem,
} from './table.js'

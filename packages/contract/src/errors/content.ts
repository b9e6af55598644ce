import { kind } from './kind.js'

/** Pickers, what they hand over, units, files, groups, tables. */
export const CONTENT_ERRORS = {
  'picker.none': kind(
    409,
    'This tool has no picker.',
    'Paste the content’s address, or let the tool ask at first launch.',
  ),
  'picker.not_found': kind(404, 'There is no such picking, or it is somebody else’s.', 'Open the picker again.'),
  'picker.closed': kind(409, 'This picking is over.', 'Open the picker again.'),
  'picker.not_answered': kind(409, 'The tool has not answered yet.', 'Choose something in the tool, or leave it.'),
  'picker.item_not_found': kind(404, 'The tool’s answer has no such item.', 'Look at the items of the picking.'),
  'picker.item_not_a_tool_link': kind(
    400,
    'This item is nothing that can be launched, so it cannot be an assignment.',
    'Put it into a unit instead.',
  ),
  'picker.other_tool': kind(400, 'The content was picked in another tool.', 'Pick it in the tool of this assignment.'),
  'picker.data_unknown': kind(
    400,
    'This answer matches no picker request that was sent from here.',
    'The tool has to send `data` back as it got it; open the picker again.',
  ),
  'picker.data_used': kind(
    409,
    'This answer was sent before.',
    'What came back first is kept; open the picker again for another.',
  ),
  'picker.expired': kind(
    400,
    'The answer is too old, or the two clocks differ.',
    'Open the picker again; check the tool’s clock.',
  ),
  'picker.other_registration': kind(
    401,
    'The tool answered under another registration of its own: it knows us under more than one client ID.',
    'Have the tool’s end use the client ID that it was opened with, or use the other registration; one of the two has to go.',
  ),
  'picker.claim_wrong': kind(
    400,
    'A claim of the answer has a wrong value.',
    'Send this to the tool’s support: it names the claim, the value received and the value expected.',
  ),
  'picker.claim_missing': kind(400, 'A claim is missing from the answer.', 'Tell the tool’s support which one.'),
  'picker.wrong_deployment': kind(
    400,
    'The answer names another deployment.',
    'Check the deployment ID at the tool’s end.',
  ),
  'picker.wrong_message': kind(
    400,
    'This is not a picker’s answer.',
    'The tool has to answer with the type of the standard.',
  ),
  'picker.items_malformed': kind(400, 'The list of items cannot be read.', 'Tell the tool’s support where it breaks.'),
  'picker.too_many_items': kind(400, 'The answer holds too many items.', 'Choose fewer at once.'),
  'picker.unsigned': kind(
    400,
    'The answer is not signed.',
    'The tool has to sign it with the key of its registration.',
  ),
  'picker.key_unknown': kind(
    400,
    'The answer is signed under another key.',
    'Check the consumer key at the tool’s end.',
  ),
  'picker.said': kind(400, 'The tool could not offer anything.', 'Read what it said, then open the picker again.'),

  'item.unknown_type': kind(400, 'Items of this type are not taken.', 'Choose another kind of item.'),
  'item.no_url': kind(400, 'The item has no address.', 'Tell the tool’s support.'),
  'item.address': kind(400, 'The item’s address cannot be used.', 'Tell the tool’s support.'),
  'item.malformed': kind(400, 'The item cannot be read.', 'Tell the tool’s support.'),
  'item.no_html': kind(400, 'The item holds no HTML.', 'Tell the tool’s support.'),
  'item.expired': kind(400, 'The file can be fetched no longer.', 'Choose it again in the picker.'),
  'item.not_fetched': kind(
    400,
    'The file could not be fetched from the tool.',
    'Choose it again, or upload it by hand.',
  ),

  'unit.not_found': kind(404, 'There is no such unit in this course.', 'Look at the course’s outline.'),
  'unit.order': kind(409, 'The outline has changed meanwhile.', 'Look at it again, then move what is to be moved.'),
  'unit.title_taken': kind(409, 'The course has a unit of this title.', 'Give it another title.'),
  'item.not_found': kind(404, 'There is no such item in this course.', 'Look at the course’s outline.'),
  'item.wrong_kind': kind(
    400,
    'Items of this kind do not have that.',
    'Leave it out, or make an item of another kind.',
  ),

  'item.title_of_tool': kind(
    409,
    'The tool opens only under certain titles, and this is none of them.',
    'Give it a title that the tool opens under; the tool’s page lists them.',
  ),

  'file.not_found': kind(404, 'There is no such file in this course.', 'Look at the course’s files.'),
  'file.empty': kind(400, 'The file is empty.', 'Choose another file.'),
  'file.too_large': kind(413, 'The file is larger than this service takes.', 'Make it smaller, or ask the operator.'),
  'file.course_full': kind(
    413,
    'The course’s files would take more room than a course has.',
    'Remove files of the course that are used nowhere, or ask the operator for more room.',
  ),
  'file.cut_off': kind(400, 'The file did not arrive whole.', 'Upload it again.'),
  'file.none_sent': kind(400, 'No file was sent.', 'Send one as multipart/form-data.'),
  'file.in_use': kind(409, 'The file is used in the course.', 'Take it out of the outline first.'),
  'file.link_unknown': kind(403, 'The file address is invalid or has expired.', 'Ask the service for a new one.'),

  'group.not_found': kind(
    404,
    'There is no such group in this course.',
    'List them with `bathyscribe course groups COURSE`.',
  ),
  'group.set_not_found': kind(
    404,
    'There is no such group set in this course.',
    'List them with `bathyscribe course groups COURSE`.',
  ),
  'group.name_taken': kind(409, 'There is one of this name already.', 'Give it another name.'),
  'group.in_use': kind(409, 'Assignments are released to it.', 'Release them to others first.'),
  'group.not_a_learner': kind(400, 'Groups are made of learners of the course.', 'Check the names.'),

  'table.empty': kind(400, 'The table is empty.', 'Send a line of heads and one line for each row.'),
  'table.too_large': kind(413, 'The table is too large.', 'Send it in parts.'),
  'table.too_many_rows': kind(413, 'The table has too many rows.', 'Send it in parts.'),
  'table.no_head': kind(400, 'The first line has no known column name.', 'Start with the template’s header row.'),
  'table.column_twice': kind(400, 'A column appears twice.', 'Keep one of the two.'),
  'table.quotes': kind(400, 'A quotation mark is opened and not closed.', 'Check the quotes of that line.'),
  'table.rows_wrong': kind(
    400,
    'Some rows cannot be made, so nothing was.',
    'Put the listed rows right, then send it again.',
  ),

  'service_token.missing': kind(401, 'There is no service token.', 'Send a token as Bearer.'),
  'service_token.unknown': kind(401, 'The service token is invalid or has expired.', 'Ask for a new one.'),
  'service_token.suspended': kind(
    403,
    'The tool is suspended.',
    'Enable the tool again, or allow its scores while it is suspended, on the tool’s page or with `bathyscribe tool suspend --scores`.',
  ),
  'service_token.scope': kind(403, 'The service token was not granted this scope.', 'Ask for a token with the scope.'),
  'service_token.other_course': kind(
    404,
    'The tool has no place in this course.',
    'Use the addresses that a launch gives.',
  ),

  'line_item.not_found': kind(
    404,
    'There is no such column, or it is not this tool’s.',
    'Use the address that a launch gives.',
  ),
  'line_item.malformed': kind(
    400,
    'The column is not of the form of the standard.',
    'Send JSON as AGS 2.0 section 3.2 has it: a label, and moments with a zone.',
  ),
  'line_item.maximum': kind(
    400,
    'The maximum is no number above 0.',
    'Send scoreMaximum as a JSON number, at most 100000.',
  ),
  'line_item.foreign_link': kind(
    400,
    'The column is tied to a link that is not this tool’s.',
    'Use the resource link identifier of a launch, or leave it out.',
  ),
  'line_item.link_fixed': kind(
    400,
    'A column cannot be moved to another link.',
    'Make another column for the other link.',
  ),
  'line_item.of_assignment': kind(
    403,
    'The column belongs to an assignment of the course.',
    'Ask the instructor to delete the assignment.',
  ),
  'line_item.too_many': kind(
    403,
    'The tool has made as many columns in this course as it may.',
    'Delete columns that are no longer needed.',
  ),
  'roster.mark': kind(
    400,
    'This differences address was not issued here.',
    'Use the address that came as rel="differences".',
  ),
  'roster.foreign_link': kind(
    400,
    'The link is not this tool’s in this course.',
    'Use the resource link identifier of a launch.',
  ),
  'score_service.malformed': kind(
    400,
    'The score is not of the form of the standard.',
    'Send JSON as AGS 2.0 section 3.4.1 has it.',
  ),
  'score_service.timestamp': kind(
    400,
    'The timestamp is none of ISO 8601 with a zone.',
    'Send it as 2026-12-01T12:00:00.123Z.',
  ),
  'score_service.progress': kind(
    400,
    'The progress is none of the standard’s words.',
    'Use the words of AGS 2.0 sections 3.4.6 and 3.4.7.',
  ),
  'score_service.given': kind(400, 'The score given is no number from 0 upwards.', 'Send it as a JSON number.'),
  'score_service.maximum': kind(400, 'The maximum is missing or not above 0.', 'Send scoreMaximum beside scoreGiven.'),
  'score_service.not_newer': kind(
    409,
    'A score with this timestamp or a later one has been taken already.',
    'Send a score only when it is newer than the last one.',
  ),
  'score_service.unknown_person': kind(
    400,
    'The person is not known to this course.',
    'Use the identifier that launches give.',
  ),
} as const

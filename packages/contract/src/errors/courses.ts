import { kind } from './kind.js'

/** Courses, what stands in them, launches and scores. */
export const COURSES_ERRORS = {
  'course.not_found': kind(
    404,
    'There is no such course, or you are not in it.',
    'List your courses with `bathyscribe course list`.',
  ),
  'course.code_taken': kind(409, 'A course with this code exists already.', 'Choose another code.'),
  'enrolment.not_found': kind(404, 'This person is not in the course.', 'Add the person to the course first.'),
  'category.not_found': kind(
    404,
    'The course has no such category.',
    'Choose one of the course’s categories, or make it.',
  ),
  'menu.not_found': kind(404, 'There is no such menu entry, or you may not see it.', 'Reload the course’s menu.'),
  'menu.order': kind(
    409,
    'The order does not name exactly the entries of the menu.',
    'Reload the menu; somebody else may have changed it.',
  ),
  'assignment.not_found': kind(
    404,
    'There is no such assignment, or you may not see it.',
    'List a course’s assignments with `bathyscribe assignment list COURSE`.',
  ),
  'assignment.slug_taken': kind(
    409,
    'Another assignment of the course was given the same title at the same moment.',
    'Try again.',
  ),
  'assignment.preflight': kind(
    409,
    'Preflight found something that must be mended before publishing.',
    'Mend what is listed, then publish again.',
  ),
  'assignment.has_scores': kind(
    409,
    'Scores have come in for this assignment.',
    'Say that you want this nevertheless; the scores are kept.',
  ),
  'assignment.row_taken': kind(
    409,
    'Another table made this row at the same moment.',
    'Send the table again: what is there stays as it is.',
  ),
  'assignment.not_accepted': kind(
    400,
    'Only warnings that preflight gives now can be accepted.',
    'Look at the assignment’s preflight.',
  ),
  'assignment.not_deleted': kind(409, 'The assignment is not deleted.', 'There is nothing to bring back.'),
  'launch.not_open_yet': kind(409, 'It is not open yet.', 'Look at the opening time on its page.'),
  'launch.closed': kind(409, 'It is closed.', 'Ask the instructor if you still need to work on it.'),
  'launch.not_for_you': kind(
    404,
    'This was given to other learners of the course.',
    'Ask the instructor if it should be yours, too.',
  ),
  'launch.no_attempt_left': kind(
    409,
    'You have handed in as often as it may be.',
    'Ask the instructor for another attempt.',
  ),
  'launch.no_address': kind(
    409,
    'The link leads nowhere: it has no launch address.',
    'Give the assignment or its tool a launch address.',
  ),
  'launch.not_enrolled': kind(403, 'You are not in this course.', 'Ask the instructor to add you.'),
  'launch.dropped': kind(403, 'You have been dropped from this course.', 'Ask the instructor if this is a mistake.'),
  'launch.tool_suspended': kind(
    409,
    'The tool is suspended for now.',
    'Try again later; the institution has switched it off.',
  ),
  'launch.tool_retired': kind(
    409,
    'The tool is no longer used here.',
    'Ask the instructor where the work is done now.',
  ),
  'launch.tool_draft': kind(409, 'The tool is not enabled yet.', 'Ask the technologist to enable it.'),
  'launch.return_unknown': kind(
    404,
    'This return address belongs to no launch.',
    'Open the assignment again from its page.',
  ),
  'launch.no_test_learner': kind(409, 'The course has no test learner.', 'Add one with `bathyscribe person enrol`.'),
  'launch.no_instructor': kind(409, 'The course has no instructor to launch as.', 'Add an instructor to the course.'),
  'launch.hidden': kind(404, 'This entry is not shown to you.', 'Go back to the course and reload it.'),
  'launch.waiting_first_entry': kind(
    409,
    'The instructor has to open this tool first.',
    'Come back when it has been set up; your instructor sees that it waits.',
  ),
  'launch.tool_waiting': kind(409, 'The tool waits for approval.', 'Ask the technologist to look at it.'),
  'launch.tool_deleted': kind(409, 'The tool was taken away.', 'Ask the instructor where the work is done now.'),
  'sounding.not_found': kind(
    404,
    'There is no such sounding, or you may not see it.',
    'List soundings with `bathyscribe sounding list`.',
  ),
  'sounding.already_running': kind(
    409,
    'A sounding of this assignment is running already.',
    'Wait until it ends, or look at it.',
  ),
  'wire.not_found': kind(
    404,
    'There is no such wire entry, or you may not see it.',
    'List entries with `bathyscribe wire list`; old ones expire.',
  ),
  'score.empty': kind(400, 'The score is empty.', 'Send a decimal from 0 to 1; use deleteResult to clear a score.'),
  'score.decimal_comma': kind(400, 'The score is written with a comma.', 'Write the decimal mark as a point.'),
  'score.not_a_number': kind(
    400,
    'The score is not a plain decimal number.',
    'Send a decimal from 0 to 1, without exponent.',
  ),
  'score.negative': kind(400, 'The score is negative.', 'Send a decimal from 0 to 1, without a minus sign.'),
  'score.above_one': kind(
    400,
    'The score is above 1.',
    'Send the fraction: what was reached divided by what can be reached.',
  ),
  'score.too_long': kind(400, 'The score has too many digits.', 'Send at most 64 characters.'),
  'score.not_a_learner': kind(
    400,
    'The person is not a learner of the course (any more).',
    'Nothing to mend at the tool’s end: the roster has changed.',
  ),
} as const

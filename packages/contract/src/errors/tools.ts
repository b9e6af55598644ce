import { kind } from './kind.js'

/** Registrations and their keys. */
export const TOOLS_ERRORS = {
  'tool.not_found': kind(
    404,
    'There is no such tool, or you may not see it.',
    'List tools with `bathyscribe tool list`.',
  ),
  'tool.key_has_blanks': kind(
    400,
    'The consumer key has spaces or invisible characters around it.',
    'Remove them; they are easily copied along.',
  ),
  'tool.secret_has_blanks': kind(
    400,
    'The shared secret has spaces or invisible characters around it.',
    'Remove them, or say that they belong to it (`acceptBlanks`).',
  ),
  'tool.already_registered': kind(
    409,
    'A tool with this key and launch address is registered already.',
    'Use that registration, or say why a second one is wanted.',
  ),
  'tool.retired': kind(409, 'The tool is retired and cannot be restored.', 'Register it again.'),
  'tool.secret_missing': kind(
    409,
    'The registration holds no shared secret.',
    'Enter the secret before enabling the tool.',
  ),
  'tool.name_taken': kind(409, 'Another tool has this short name.', 'Choose another name.'),
  'tool.policy': kind(
    403,
    'Instructors do not register tools for their own courses here.',
    'Ask the administrator to register it; tell them what the vendor gave you.',
  ),
  'tool.not_offered': kind(
    409,
    'The tool is not offered to this course.',
    'Ask the administrator to offer it to the course.',
  ),
  'tool.needs_own_keys': kind(
    409,
    'This tool issues key and secret for each course.',
    'Get them from the tool for this course, and enter both.',
  ),
  'tool.not_waiting': kind(409, 'The tool does not wait for approval.', 'Reload; somebody else may have decided.'),
  'tool.no_proposal': kind(409, 'The tool has proposed no change.', 'Reload; somebody else may have decided.'),
  'tool.not_asked_for': kind(
    400,
    'A scope was to be granted that the tool has not asked for.',
    'Grant only scopes that the tool asks for.',
  ),
  'tool.scope_unknown': kind(
    400,
    'This is not a scope that can be granted here.',
    'Grant one of: lineitem, lineitem.readonly, result.readonly, score, basicoutcome, roster, groups, files; or a whole scope name.',
  ),
  'tool.waiting': kind(409, 'The tool waits for approval.', 'Approve or refuse it first.'),
  'tool.deleted': kind(409, 'The tool is deleted.', 'Bring it back first, if it is still wanted.'),
  'tool.not_deleted': kind(409, 'The tool is not deleted.', 'There is nothing to bring back.'),
  'tool.in_use': kind(409, 'The course still uses this tool.', 'Remove its assignments and menu entries first.'),
  'tool.replace_itself': kind(400, 'A tool cannot be replaced by itself.', 'Name another registration.'),
  'tool.replacement_unknown': kind(
    404,
    'There is no such replacement of this tool.',
    'List them with `bathyscribe tool replacements TOOL`.',
  ),
  'tool.replacement_undone': kind(409, 'This replacement was taken back already.', 'There is nothing to take back.'),
  'tool.nothing_to_move': kind(
    409,
    'No address begins like that.',
    'See the addresses with `bathyscribe tool show TOOL`; name their beginning up to a slash.',
  ),
  'tool.address_move_unknown': kind(
    404,
    'There is no such move of this tool’s addresses.',
    'List them with `bathyscribe tool address-moves TOOL`.',
  ),
  'tool.address_move_undone': kind(409, 'This move was taken back already.', 'There is nothing to take back.'),
  'tool.replace_mismatch': kind(
    409,
    'The other registration cannot take over these links.',
    'It must be enabled, and registered for the institution or the same course.',
  ),
  'tool.incomplete': kind(
    409,
    'The registration lacks something that it needs to be enabled.',
    'Enter what is named; a draft may be incomplete.',
  ),
  'tool.version_fixed': kind(
    409,
    'This field belongs to the other version of LTI.',
    'Register the tool again with the other version, then replace this registration by it.',
  ),
  'tool.secret_not_found': kind(404, 'There is no such secret beside the current one.', 'Reload; it may have ended.'),
  'tool.secret_unchanged': kind(
    400,
    'The new secret is the one in use already.',
    'Copy the new one from the tool, or have one made here.',
  ),
  'tool.no_secret_in_1_3': kind(
    409,
    'A tool of LTI 1.3 signs with its own keys.',
    'Rotate the keys at the tool’s end.',
  ),
  'tool.public_key_unreadable': kind(
    400,
    'The public key cannot be read.',
    'Paste a keyset as JSON, or an RSA public key as PEM.',
  ),
  'deployment.exists': kind(409, 'This course has a deployment of its own already.', 'Use that one.'),
  'deployment.not_1_3': kind(409, 'Only tools of LTI 1.3 have deployments.', 'There is nothing to add.'),
  'intake.no_configuration': kind(
    502,
    'What is at the address is not a configuration.',
    'Ask the vendor for the configuration address, or paste the values themselves.',
  ),
  'invitation.not_found': kind(404, 'There is no such invitation.', 'Start the registration again.'),
  'registration.token': kind(
    401,
    'The registration token is not known, was used before, or its hour is over.',
    'Start the registration again from the platform.',
  ),
  'keyset.not_a_keyset': kind(
    502,
    'What is at the keyset address is not a keyset.',
    'Check the address; it must answer JSON with “keys”.',
  ),
  'keyset.no_usable_key': kind(
    502,
    'The keyset holds no key that can be used.',
    'Publish an RSA key of 2048 bits or more with a kid.',
  ),
  'keyset.too_many_keys': kind(502, 'The keyset holds too many keys.', 'Publish only the keys in use.'),
  'keyset.private_key': kind(
    502,
    'The keyset shows a private key.',
    'Replace that key at once: everybody can sign with it.',
  ),
  'keyset.none': kind(409, 'The registration holds neither a keyset address nor a key.', 'Enter one of the two.'),
  'metadata.invalid': kind(
    400,
    'The tool’s description of itself is not of the standard’s form.',
    'Fix every place that is named.',
  ),
  'configuration.not_a_cartridge': kind(
    400,
    'The XML is not a tool configuration.',
    'Ask the vendor for the LTI configuration.',
  ),
} as const

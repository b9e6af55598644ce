import { Argument, type Command } from 'commander'
import { examples } from '../terminal/command.js'
import { terminal } from '../terminal/terminal.js'

interface Word {
  path: string
  words: string[]
}

/** Every command with the words that can follow it: its verbs and its long options. */
function collect(command: Command, path: string): Word[] {
  const words = [
    ...command.commands.map((one) => one.name()),
    ...command.options.flatMap((option) => option.long ?? []),
  ]
  return [{ path, words }, ...command.commands.flatMap((one) => collect(one, `${path} ${one.name()}`))]
}

function script(program: Command, shell: 'bash' | 'zsh'): string {
  const cases = collect(program, 'bathyscribe')
    .map(({ path, words }) => `    "${path}") words="${words.join(' ')}" ;;`)
    .join('\n')
  const body = `_bathyscribe() {
  local path="bathyscribe" word words=""
  for word in "\${COMP_WORDS[@]:1:COMP_CWORD-1}"; do [[ "$word" == -* ]] || path="$path $word"; done
  case "$path" in
${cases}
  esac
  COMPREPLY=($(compgen -W "$words" -- "\${COMP_WORDS[COMP_CWORD]}"))
}
complete -F _bathyscribe bathyscribe`
  return shell === 'bash' ? body : `autoload -Uz bashcompinit && bashcompinit\n${body}`
}

export function addCompletionCommand(program: Command): void {
  program
    .command('completion')
    .description('prints a completion script for your shell')
    .addArgument(new Argument('<shell>').choices(['bash', 'zsh']))
    .addHelpText(
      'after',
      examples(
        'completion bash > ~/.local/share/bash-completion/completions/bathyscribe',
        'completion zsh >> ~/.zshrc',
      ),
    )
    .action((shell: 'bash' | 'zsh') => terminal().print(`${script(program, shell)}\n`))
}

import { relative } from 'node:path'
import ts from 'typescript'

// Finds the statements in the sources, as far as their text stands there, and what is said of the rows that they give.

/** What a column may be held as in the sources. `json` is whatever came through JSON. */
export type Held = 'text' | 'number' | 'boolean' | 'date' | 'bytes' | 'list' | 'json' | 'anything'

/** A column of a row, as the sources say. */
export interface Said {
  held: ReadonlySet<Held>
  mayBeNull: boolean
  mayBeAbsent: boolean
  /** What came through JSON holds neither dates nor bytes. */
  lostInJson: string | undefined
}

export interface Written {
  /** File and line, from the root of the project. */
  place: string
  /** Each text that the statement may have. Empty: it is put together where it runs. */
  texts: string[]
  /** Empty where nothing is said of it. */
  row: ReadonlyMap<string, Said>
}

/** Functions by name that do more than give back an expression. */
export type Makers = Readonly<Record<string, (...given: never[]) => string>>

/** @param config path of a `tsconfig.json` */
export function writtenStatements(config: string, root: string, makers: Makers): Written[] {
  const host = { ...ts.sys, onUnRecoverableConfigFileDiagnostic: () => undefined }
  const parsed = ts.getParsedCommandLineOfConfigFile(config, {}, host)!
  const program = ts.createProgram(parsed.fileNames, { ...parsed.options, noEmit: true, composite: false, incremental: false }) // oxfmt-ignore
  const checker = program.getTypeChecker()
  const texts = new Texts(checker, makers)
  const found: Written[] = []
  const calls: ts.CallExpression[] = []
  const look = (node: ts.Node): void => {
    if (ts.isCallExpression(node) && ts.isPropertyAccessExpression(node.expression) && node.expression.name.text === 'query') calls.push(node) // oxfmt-ignore
    ts.forEachChild(node, look)
  }
  for (const file of program.getSourceFiles()) if (parsed.fileNames.includes(file.fileName)) look(file)
  for (const call of calls) {
    const row = rowOf(checker, call)
    if (!call.arguments[0]) continue
    const file = call.getSourceFile()
    const line = file.getLineAndCharacterOfPosition(call.getStart()).line + 1
    found.push({
      place: `${relative(root, file.fileName)}:${line}`,
      texts: texts.of(call.arguments[0]).filter((text) => typeof text === 'string'),
      row: row ? columnsOf(checker, row, call) : new Map(),
    })
  }
  return found
}

/** The type of one row; undefined where nothing is said of it. */
function rowOf(checker: ts.TypeChecker, call: ts.CallExpression): ts.Type | undefined {
  const signature = checker.getResolvedSignature(call)
  const answer = signature && checker.getAwaitedType(signature.getReturnType())
  if (!answer || answer.flags & (ts.TypeFlags.Any | ts.TypeFlags.Unknown)) return undefined
  const rows = answer.getProperty('rows')
  let of = rows ? checker.getTypeOfSymbol(rows) : answer
  // What changes rows is answered by [rows, count].
  if (checker.isTupleType(of)) of = checker.getTypeArguments(of as ts.TypeReference)[0]!
  if (checker.isArrayType(of)) of = checker.getTypeArguments(of as ts.TypeReference)[0]!
  return of.flags & ts.TypeFlags.Object || of.isIntersection() || of.isUnion() ? of : undefined
}

function columnsOf(checker: ts.TypeChecker, row: ts.Type, at: ts.Node): Map<string, Said> {
  return new Map(
    checker.getPropertiesOfType(row).map((property) => {
      const type = checker.getTypeOfSymbolAtLocation(property, at)
      const whole = checker.getNonNullableType(type)
      return [
        property.name,
        {
          held: heldAs(checker, whole),
          mayBeNull: whole !== type || (type.flags & (ts.TypeFlags.Any | ts.TypeFlags.Unknown)) !== 0,
          mayBeAbsent: (property.flags & ts.SymbolFlags.Optional) !== 0,
          lostInJson: lostInJson(checker, whole, at),
        },
      ]
    }),
  )
}

function heldAs(checker: ts.TypeChecker, type: ts.Type): Set<Held> {
  return new Set((type.isUnion() ? type.types : [type]).map((one) => heldAsOne(checker, one)))
}

function heldAsOne(checker: ts.TypeChecker, type: ts.Type): Held {
  if (type.flags & (ts.TypeFlags.Any | ts.TypeFlags.Unknown)) return 'anything'
  if (type.flags & ts.TypeFlags.StringLike) return 'text'
  if (type.flags & ts.TypeFlags.NumberLike) return 'number'
  if (type.flags & ts.TypeFlags.BooleanLike) return 'boolean'
  const name = type.symbol?.name
  if (name === 'Date') return 'date'
  if (name === 'Buffer' || name === 'Uint8Array') return 'bytes'
  if (checker.isArrayType(type) || checker.isTupleType(type)) return 'list'
  // A text with a brand.
  if (type.isIntersection() && type.types.some((one) => one.flags & ts.TypeFlags.StringLike)) return 'text'
  return 'json'
}

const DEEPEST = 6

/** Where in a type stands what JSON cannot carry, if anywhere. */
function lostInJson(checker: ts.TypeChecker, type: ts.Type, at: ts.Node, path = '', depth = 0): string | undefined {
  if (depth > DEEPEST) return undefined
  const deeper = (one: ts.Type, more = '') => lostInJson(checker, one, at, `${path}${more}`, depth + 1)
  if (type.isUnion()) return firstOf(type.types, (one) => deeper(one))
  const held = heldAsOne(checker, type)
  if (held === 'date' || held === 'bytes') return `${path} is held as ${held}`
  if (held === 'list') return firstOf(checker.getTypeArguments(type as ts.TypeReference), (one) => deeper(one, '[]'))
  if (held !== 'json') return undefined
  return firstOf(checker.getPropertiesOfType(type), (property) =>
    deeper(checker.getNonNullableType(checker.getTypeOfSymbolAtLocation(property, at)), `.${property.name}`),
  )
}

function firstOf<T>(all: readonly T[], find: (one: T) => string | undefined): string | undefined {
  for (const one of all) {
    const found = find(one)
    if (found !== undefined) return found
  }
  return undefined
}

/** It is put together of what is known only where it runs. */
const UNKNOWN = Symbol('known only where it runs')

/** What the parameters of the functions are that are being gone through. */
type Given = ReadonlyMap<ts.Symbol, readonly unknown[]>

/** What an expression may be, as far as it stands in the sources: each alternative. */
class Texts {
  constructor(
    private readonly checker: ts.TypeChecker,
    private readonly makers: Makers,
  ) {}

  /** @returns nothing where it is known only at run time */
  of(node: ts.Expression, given: Given = new Map()): unknown[] {
    try {
      return this.all(node, given)
    } catch (error) {
      if (error === UNKNOWN) return []
      throw error
    }
  }

  private all(node: ts.Expression, given: Given): unknown[] {
    if (ts.isStringLiteralLike(node)) return [node.text]
    if (ts.isNumericLiteral(node)) return [Number(node.text)]
    if (ts.isParenthesizedExpression(node) || ts.isAsExpression(node) || ts.isSatisfiesExpression(node) || ts.isNonNullExpression(node))
      return this.all(node.expression, given) // oxfmt-ignore
    if (ts.isConditionalExpression(node)) return [node.whenTrue, node.whenFalse].flatMap((one) => this.all(one, given))
    if (ts.isTemplateExpression(node)) return this.filledIn(node, given)
    if (ts.isBinaryExpression(node)) return this.reckoned(node, given)
    if (ts.isObjectLiteralExpression(node)) return this.property(node, 'text', given)
    if (ts.isCallExpression(node)) return this.called(node, given)
    if (ts.isIdentifier(node) || ts.isPropertyAccessExpression(node)) return this.named(node, given)
    throw UNKNOWN
  }

  /** What stands in it twice is the same in both places. */
  private filledIn({ head, templateSpans }: ts.TemplateExpression, given: Given): string[] {
    let choices: ReadonlyMap<string, unknown>[] = [new Map()]
    for (const { expression } of templateSpans) {
      const name = expression.getText()
      if (choices[0]?.has(name)) continue
      const parts = this.all(expression, given)
      choices = choices.flatMap((choice) => parts.map((part) => new Map([...choice, [name, part]])))
    }
    return choices.map((choice) =>
      [
        head.text,
        ...templateSpans.map((one) => `${String(choice.get(one.expression.getText()))}${one.literal.text}`),
      ].join(''),
    )
  }

  private reckoned({ left, right, operatorToken }: ts.BinaryExpression, given: Given): unknown[] {
    const reckon = RECKON[operatorToken.kind]
    if (!reckon) throw UNKNOWN
    const others = this.all(right, given)
    return this.all(left, given).flatMap((one) => others.map((other) => reckon(one as never, other as never)))
  }

  /** One property of an object that is written out. */
  private property(node: ts.ObjectLiteralExpression, name: string, given: Given): unknown[] {
    for (const one of node.properties) {
      if (one.name?.getText() !== name) continue
      if (ts.isPropertyAssignment(one)) return this.all(one.initializer, given)
      const symbol = ts.isShorthandPropertyAssignment(one) && this.checker.getShorthandAssignmentValueSymbol(one)
      if (symbol) return this.ofSymbol(symbol, given)
    }
    throw UNKNOWN
  }

  private named(node: ts.Expression, given: Given): unknown[] {
    const symbol = this.symbolOf(node)
    if (!symbol) throw UNKNOWN
    return this.ofSymbol(symbol, given)
  }

  private symbolOf(node: ts.Expression): ts.Symbol | undefined {
    const symbol = this.checker.getSymbolAtLocation(node)
    return symbol && symbol.flags & ts.SymbolFlags.Alias ? this.checker.getAliasedSymbol(symbol) : symbol
  }

  private ofSymbol(symbol: ts.Symbol, given: Given): unknown[] {
    const known = given.get(symbol)
    if (known) return [...known]
    const declared = symbol.valueDeclaration
    if (!declared) throw UNKNOWN
    const isConst = ts.isVariableDeclaration(declared) && (ts.getCombinedNodeFlags(declared) & ts.NodeFlags.Const) !== 0
    if ((isConst || ts.isPropertyAssignment(declared)) && declared.initializer)
      return this.all(declared.initializer, given)
    if (ts.isParameter(declared)) return this.handedIn(declared)
    if (ts.isBindingElement(declared)) return this.takenOut(declared)
    throw UNKNOWN
  }

  /** `const { name } = made(…)`, where what is made is written out. */
  private takenOut({ name, propertyName, parent: { parent } }: ts.BindingElement): unknown[] {
    const made = ts.isVariableDeclaration(parent) && parent.initializer
    if (!made || !ts.isCallExpression(made)) throw UNKNOWN
    const back = backFrom(this.checker.getResolvedSignature(made)?.declaration)
    const alternatives = back && ts.isConditionalExpression(back) ? [back.whenTrue, back.whenFalse] : [back]
    return alternatives.flatMap((one) => {
      if (!one || !ts.isObjectLiteralExpression(one)) throw UNKNOWN
      return this.property(one, (propertyName ?? name).getText(), new Map())
    })
  }

  /** What the callers in the same file hand in. */
  private handedIn(parameter: ts.ParameterDeclaration): unknown[] {
    const made = parameter.parent
    const at = made.parameters.indexOf(parameter)
    const callers: ts.CallExpression[] = []
    const look = (node: ts.Node): void => {
      if (ts.isCallExpression(node) && this.checker.getResolvedSignature(node)?.declaration === made) callers.push(node)
      ts.forEachChild(node, look)
    }
    look(made.getSourceFile())
    if (callers.length === 0) throw UNKNOWN
    return callers.flatMap(({ arguments: all }) => this.argument(all[at] ?? parameter.initializer, new Map()))
  }

  /** An argument of a maker. */
  private literal(node: ts.Expression): unknown {
    if (!ts.isObjectLiteralExpression(node)) return this.all(node, new Map())[0]
    return Object.fromEntries(
      node.properties.map((one) => [one.name?.getText(), this.property(node, one.name?.getText() ?? '', new Map())[0]]),
    )
  }

  private argument(node: ts.Expression | undefined, given: Given): unknown[] {
    if (!node) throw UNKNOWN
    return this.all(node, given)
  }

  /** What a function gives back that does nothing else. */
  private called(node: ts.CallExpression, given: Given): unknown[] {
    const make = this.makers[node.expression.getText()]
    if (make) return [make(...(node.arguments.map((one) => this.literal(one)) as never[]))]
    const made = this.checker.getResolvedSignature(node)?.declaration
    const back = backFrom(made)
    if (!made || !back) throw UNKNOWN
    const inside = new Map(given)
    made.parameters.forEach((parameter, i) => {
      const symbol = this.checker.getSymbolAtLocation(parameter.name)
      const handed = node.arguments[i] ?? (parameter as ts.ParameterDeclaration).initializer
      // One that decides between texts, and stands in none, need not be known.
      const values = symbol && handed ? this.of(handed, given) : []
      if (symbol && values.length > 0) inside.set(symbol, values)
    })
    return this.all(back, inside)
  }
}

const RECKON: Partial<Record<ts.SyntaxKind, (a: never, b: never) => unknown>> = {
  [ts.SyntaxKind.PlusToken]: (a: string, b: string) => a + b,
  [ts.SyntaxKind.SlashToken]: (a: number, b: number) => a / b,
}

/** The expression that a function is, if it is no more than that. */
function backFrom(made: ts.Node | undefined): ts.Expression | undefined {
  if (!made) return undefined
  if (ts.isArrowFunction(made) && !ts.isBlock(made.body)) return made.body
  const body = ts.isFunctionLike(made) && 'body' in made ? (made.body as ts.Block | undefined) : undefined
  const [first, ...more] = body?.statements ?? []
  return first && more.length === 0 && ts.isReturnStatement(first) ? first.expression : undefined
}

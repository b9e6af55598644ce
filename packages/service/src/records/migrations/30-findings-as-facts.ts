import type { MigrationInterface, QueryRunner } from 'typeorm'

/** An old sentence as something found, whose facts are its words. */
const said = (sentence: string) =>
  `case when ${sentence} is not null then jsonb_build_object('check', 'said', 'code', 'said', 'facts', jsonb_build_object('statement', ${sentence})) end`
const wordsOf = (found: string) => `coalesce(${found}->'facts'->>'statement', ${found}->>'check')`

/**
 * What was found is kept as facts, and put into words when it is told. What was found before keeps the words of then; where they are read again (what a
 * sounding that passed received, who takes no test learners) the facts are taken out of them once, here. What of preflight was accepted is judged anew
 * after this (`carryAcceptances`).
 */
export class FindingsAsFacts1793000000000 implements MigrationInterface {
  name = 'FindingsAsFacts1793000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      alter table sounding_finding add column code text, add column facts jsonb;
      update sounding_finding f set code = coalesce(x.code, 'said'),
        facts = coalesce(x.facts, jsonb_build_object('statement', f.statement, 'cause', f.cause, 'remedy', f.remedy))
      from (
        select g.sounding_id, g.position,
          case when g.sent is not null then 'score' when g.read is not null then 'readable' when g.barred is not null then 'refuses_test_learner' end as code,
          case when g.sent is not null then jsonb_build_object('sent', g.sent[1], 'outOf', g.sent[2], 'who', g.sent[3])
            when g.read is not null then jsonb_build_object('members', g.read[1]::int, 'lastReadAt', g.read[2])
            when g.barred is not null then jsonb_build_object('who', g.barred[1], 'said', g.barred[2]) end as facts
        from (
          select sounding_id, position,
            case when check_name = 'received' and verdict = 'pass' then regexp_match(statement, '^The tool sent ([0-9.]+) of ([0-9.]+) for (.*)[.]$') end as sent,
            case when check_name = 'roster' and verdict = 'pass'
              then regexp_match(statement, '^The tool may read ([0-9]{1,9}) p[a-z]+; the tool (?:last read it at ([-0-9T:]+)Z|.*)[.]$') end as read,
            case when check_name = 'taken' and cause like '%refuses the test learner%' then regexp_match(statement, '^Launched as (.*?)[.] (.*)$') end as barred
          from sounding_finding
        ) g
      ) x where x.sounding_id = f.sounding_id and x.position = f.position;
      alter table sounding_finding alter column code set not null, alter column facts set not null,
        drop column statement, drop column cause, drop column remedy;

      alter table sounding alter column cause type jsonb using ${said('cause')};
      alter table sounding rename column cause to headline;
      alter table sweep_link alter column cause type jsonb using ${said('cause')};
      alter table sweep_link rename column cause to headline;

      alter table launch_evidence alter column statement drop default, alter column statement drop not null;
      alter table launch_evidence alter column statement type jsonb using ${said("nullif(statement, '')")};
      alter table launch_evidence rename column statement to said;

      -- Null until it is judged what the rule finds now.
      alter table preflight_acceptance add column facts jsonb, alter column statement drop not null;
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      delete from preflight_acceptance where statement is null;
      alter table preflight_acceptance alter column statement set not null, drop column facts;
      alter table launch_evidence alter column said type text using coalesce(${wordsOf('said')}, '');
      alter table launch_evidence rename column said to statement;
      alter table launch_evidence alter column statement set not null;
      alter table sweep_link alter column headline type text using ${wordsOf('headline')};
      alter table sweep_link rename column headline to cause;
      alter table sounding alter column headline type text using ${wordsOf('headline')};
      alter table sounding rename column headline to cause;
      alter table sounding_finding add column statement text, add column cause text, add column remedy text;
      update sounding_finding set statement = coalesce(facts->>'statement', check_name || ': ' || code), cause = facts->>'cause', remedy = facts->>'remedy';
      alter table sounding_finding alter column statement set not null, drop column code, drop column facts;
    `)
  }
}

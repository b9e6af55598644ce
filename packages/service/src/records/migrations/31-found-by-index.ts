import type { MigrationInterface, QueryRunner } from 'typeorm'

/** The waiting links of a sweep by their hosts: whoever takes some looks at as many as it may take, not at all that wait. Titles and contents by which assignments are mixed up, and the columns that tools made by themselves. */
export class FoundByIndex1794000000000 implements MigrationInterface {
  name = 'FoundByIndex1794000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      drop index sweep_link_waiting;
      create index sweep_link_waiting on sweep_link (sweep_id, host, position) where state = 'waiting';
      create index assignment_by_title on assignment (course_id, lower(title)) where state in ('draft', 'published');
      create index assignment_by_content on assignment (course_id, registration_id,
        md5(coalesce(launch_url, '') || ' ' || custom_parameters::text || ' ' || coalesce(content->'column'->>'resourceId', '')), created_at, position, id)
        where state in ('draft', 'published');
      create index assignment_own_column on assignment (course_id, registration_id) where state = 'column';
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      drop index sweep_link_waiting, assignment_by_title, assignment_by_content, assignment_own_column;
      create index sweep_link_waiting on sweep_link (sweep_id, position) where state = 'waiting';
    `)
  }
}

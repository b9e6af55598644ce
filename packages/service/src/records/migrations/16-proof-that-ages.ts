import type { MigrationInterface, QueryRunner } from 'typeorm'

/**
 * What a proof depends on is watched by the tables themselves, so that no act can forget it: each change of it is kept with when, and, by the audit entry of the same
 * transaction, by whom.
 */
export class ProofThatAges1779000000000 implements MigrationInterface {
  name = 'ProofThatAges1779000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table proof_change (
        id bigint generated always as identity primary key,
        registration_id text references registration on delete cascade,
        assignment_id text references assignment on delete cascade,
        what text not null,
        at timestamptz not null,
        xact xid8 not null default pg_current_xact_id(),
        check (num_nonnulls(registration_id, assignment_id) = 1)
      );
      create index proof_change_of_link on proof_change (assignment_id, at desc) where assignment_id is not null;
      create index proof_change_of_tool on proof_change (registration_id, at desc) where registration_id is not null;

      alter table audit_entry add column xact xid8;
      alter table audit_entry alter column xact set default pg_current_xact_id();
      create index audit_by_xact on audit_entry (xact) where xact is not null;

      create function note_link_change() returns trigger language plpgsql as $$
      begin
        insert into proof_change (assignment_id, what, at)
        select new.id, w.what, case when new.updated_at is distinct from old.updated_at then new.updated_at else clock_timestamp() end
        from (values ('tool', new.registration_id is distinct from old.registration_id),
          ('address', new.launch_url is distinct from old.launch_url),
          ('parameters', new.custom_parameters is distinct from old.custom_parameters),
          ('content', new.content is distinct from old.content),
          ('points', new.points is distinct from old.points)) as w (what, is_changed)
        where w.is_changed;
        return null;
      end $$;
      create trigger assignment_proof_change after update of registration_id, launch_url, custom_parameters, content, points on assignment
        for each row execute function note_link_change();

      create function note_tool_change() returns trigger language plpgsql as $$
      begin
        insert into proof_change (registration_id, what, at)
        select new.id, w.what, case when new.updated_at is distinct from old.updated_at then new.updated_at else clock_timestamp() end
        from (values ('tool_launch_address', new.launch_url is distinct from old.launch_url),
          ('tool_address', (new.initiation_url, new.redirect_uris, new.keyset_url) is distinct from (old.initiation_url, old.redirect_uris, old.keyset_url)),
          ('tool_credentials', (new.consumer_key, new.secret_set_at, new.signature_method, new.client_id, new.public_keys)
            is distinct from (old.consumer_key, old.secret_set_at, old.signature_method, old.client_id, old.public_keys)),
          ('tool_version', new.version is distinct from old.version),
          ('tool_parameters', new.custom_parameters is distinct from old.custom_parameters)) as w (what, is_changed)
        where w.is_changed;
        return null;
      end $$;
      create trigger registration_proof_change after update of launch_url, initiation_url, redirect_uris, keyset_url, consumer_key, secret_set_at, signature_method, client_id,
        public_keys, version, custom_parameters on registration for each row execute function note_tool_change();

      -- What was changed before this is known only as a time.
      insert into proof_change (assignment_id, what, at) select id, 'settings', settings_changed_at from assignment where settings_changed_at > created_at;
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      drop trigger registration_proof_change on registration;
      drop function note_tool_change();
      drop trigger assignment_proof_change on assignment;
      drop function note_link_change();
      drop index audit_by_xact;
      alter table audit_entry drop column xact;
      drop table proof_change;
    `)
  }
}

import type { MigrationInterface, QueryRunner } from 'typeorm'

/** What a tool may use in a frame is said by its registration. Those that there are keep what every frame had until now; new ones begin with nothing. */
export class FramePermissions1799000000000 implements MigrationInterface {
  name = 'FramePermissions1799000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      alter table registration add frame_permissions text[] not null
        default '{camera,microphone,screen_sharing,clipboard,full_screen}';
      alter table registration alter frame_permissions set default '{}',
        add constraint registration_frame_permissions_check
          check (frame_permissions <@ '{camera,microphone,screen_sharing,clipboard,full_screen}'::text[]);
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`alter table registration drop frame_permissions`)
  }
}

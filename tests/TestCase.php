<?php

declare(strict_types=1);

namespace Tests;

use App\Estate\Models\Cluster;
use App\Estate\Teams\TeamDirectory;
use App\Platform\Models\User;
use App\Platform\Support\Role;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Usage\TeamMembership;
use Illuminate\Contracts\Console\Kernel;
use Illuminate\Foundation\Testing\TestCase as BaseTestCase;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;

abstract class TestCase extends BaseTestCase
{
    private static bool $migrated = false;

    public function createApplication()
    {
        $app = require __DIR__.'/../bootstrap/app.php';
        $app->make(Kernel::class)->bootstrap();

        return $app;
    }

    protected function setUp(): void
    {
        parent::setUp();
        $this->withoutVite();
        // An application is freed only when PHP next collects cycles; until then its connections would count against the limit.
        $this->beforeApplicationDestroyed(static fn () => array_map(DB::purge(...), array_keys(DB::getConnections())));
        if (! self::$migrated) {
            Artisan::call('migrate:fresh', ['--force' => true]);
            self::$migrated = true;
        }
        DB::statement('SET SESSION foreign_key_checks = 0');
        // The importer commits for itself, so tests empty the tables instead of rolling back. How many rows a table has is only
        // estimated, and late; just those of many partitions are opened by that estimate, since to open them takes its time.
        $tables = DB::select(
            "SELECT table_name AS name FROM information_schema.tables WHERE table_schema = DATABASE() AND table_name <> 'migrations'
            AND (table_rows <> 0 OR auto_increment > 1 OR create_options NOT LIKE '%partitioned%')",
        );
        // Together, so that the disk is waited for once.
        DB::transaction(static fn () => array_map(static fn ($table): int => DB::table($table->name)->delete(), $tables));
        DB::statement('SET SESSION foreign_key_checks = 1');
    }

    protected function cluster(string $slug = 'fernhill', Dialect $dialect = Dialect::Ansi): Cluster
    {
        return Cluster::query()
            ->create(['slug' => $slug, 'name' => ucfirst($slug), 'role' => 'production', 'connector' => 'files', 'dialect' => $dialect])
            ->refresh();
    }

    /** Who belongs to which team, in place of what the policy says. */
    protected function belong(TeamMembership ...$memberships): void
    {
        $this->app->bind(TeamDirectory::class, static fn (): TeamDirectory => new class(array_values($memberships)) implements TeamDirectory
        {
            /**
             * @param  list<TeamMembership>  $memberships
             */
            public function __construct(private readonly array $memberships)
            {
            }

            public function memberships(): array
            {
                return $this->memberships;
            }
        });
    }

    protected function person(Role $role = Role::Owner): User
    {
        return User::query()
            ->firstOrCreate(
                ['email' => "{$role->value}@brackenfold.example"],
                ['name' => ucfirst($role->value), 'password' => 'a long password', 'role' => $role, 'policy_person' => $role->value],
            )
            ->refresh();
    }

    /**
     * @param  list<array<string, mixed>|string>  $records
     */
    protected function file(array $records, string $ending = 'jsonl'): string
    {
        $path = tempnam(sys_get_temp_dir(), 'fulcrion').".{$ending}";
        file_put_contents(
            $path,
            implode(
                '',
                array_map(
                    static fn (array|string $record): string => (is_string($record) ? $record : json_encode($record))."\n",
                    $records,
                ),
            ),
        );
        $this->beforeApplicationDestroyed(static fn () => @unlink($path));

        return $path;
    }

    protected function executions(): int
    {
        return (int) DB::table('load_day')->sum('executions');
    }
}

<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Models\Cluster;
use App\Ledger\Models\Notification;
use App\Ledger\Models\Subscription;
use App\Ledger\Notifications\Dispatcher;
use App\Platform\Support\Clock;
use App\Platform\Support\Reachable;
use App\Platform\Support\Role;
use App\Platform\Support\StrongPassword;
use App\Storage\Application\Folders;
use Illuminate\Hashing\HashManager;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Hash;
use Illuminate\Support\Facades\Http;
use PHPUnit\Framework\Attributes\TestWith;
use RuntimeException;
use stdClass;
use Tests\TestCase;

/**
 * Doors beside the policy: sign-in, passwords, addresses that lead inwards, names that climb, what is left behind.
 */
final class SecurityTest extends TestCase
{
    #[TestWith(['127.0.0.1'])]
    #[TestWith(['127.9.9.9'])]
    #[TestWith(['[::1]'])]
    #[TestWith(['::ffff:127.0.0.1'])]
    #[TestWith(['::ffff:169.254.169.254'])]
    #[TestWith(['64:ff9b::7f00:1'])]
    #[TestWith(['0.0.0.0'])]
    #[TestWith(['169.254.169.254'])]
    #[TestWith(['fe80::1'])]
    #[TestWith(['febf::1'])]
    #[TestWith(['fd00:ec2::254'])]
    #[TestWith(['224.0.0.5'])]
    #[TestWith(['255.255.255.255'])]
    public function test_addresses_of_this_machine_and_its_services_are_refused(string $address): void
    {
        $reach = new Reachable([], static fn (string $host): array => [trim($address, '[]')]);
        foreach ([$address, 'name.of.it'] as $host) {
            try {
                $reach->address($host);
                self::fail("{$host} was allowed");
            } catch (RuntimeException $refused) {
                self::assertStringContainsString('FULCRION_REACHABLE', $refused->getMessage());
            }
        }
        self::assertSame(
            trim($address, '[]'),
            (new Reachable([trim($address, '[]').'/16', '::/0', '0.0.0.0/0']))->address($address),
            'unless it is listed',
        );
    }

    public function test_other_addresses_are_allowed_and_one_bad_one_among_several_is_enough_to_refuse(): void
    {
        foreach (
            [
                '10.1.2.3',
                '192.168.0.9',
                '8.8.4.4',
                '2001:db8::5',
                'fec0::1',
                '128.0.0.1',
                '126.255.255.255',
                '169.253.255.255',
                '169.255.0.0',
            ] as $address
        ) {
            self::assertSame($address, (new Reachable([]))->address($address));
        }
        self::assertSame('10.0.0.1', (new Reachable([], static fn (): array => ['10.0.0.1', '10.0.0.2']))->address('db.example'));
        $this->expectExceptionMessage('leads to 127.0.0.1');
        (new Reachable([], static fn (): array => ['10.0.0.1', '127.0.0.1']))->address('db.example');
    }

    public function test_webhooks_and_clusters_do_not_lead_inwards(): void
    {
        config(['fulcrion.reachable' => '']);
        $this->actingAs($this->person(Role::Owner));
        foreach (
            [
                'http://127.0.0.1:9/x',
                'http://localhost/x',
                'http://169.254.169.254/latest',
                'http://[::1]/x',
                'http://0/x',
                'http://2130706433/x',
            ] as $target
        ) {
            $this->post('/ledger/subscriptions', ['kind' => 'webhook', 'target' => $target])->assertSessionHasErrors('target');
        }
        self::assertSame(0, Subscription::query()->count());
        $form = [
            'name' => 'Inner',
            'connector' => 'mariadb',
            'role' => 'production',
            'host' => '127.0.0.1',
            'port' => 3306,
            'username' => 'x',
            'secret' => 'y',
        ];
        $this->post('/tend/clusters', $form)->assertSessionHasErrors('host');
        self::assertSame(0, Cluster::query()->count());
        // One that was added while it led elsewhere.
        Http::fake();
        $subscription = Subscription::query()->create([
            'kind' => 'webhook',
            'target' => 'http://127.0.0.1:9/x',
            'digest' => false,
            'made_by' => 'x',
        ]);
        Notification::query()->create([
            'watcher_id' => $subscription->id,
            'kind' => 'webhook',
            'recipient' => 'x',
            'subject' => 's',
            'body' => '{}',
            'state' => 'waiting',
            'made_us' => 1,
        ]);
        app(Dispatcher::class)->send();
        Http::assertNothingSent();
        self::assertStringContainsString('FULCRION_REACHABLE', (string) Notification::query()->value('error'));
    }

    public function test_what_was_not_sent_is_not_called_sent(): void
    {
        Notification::query()->create([
            'watcher_id' => 1,
            'kind' => 'mail',
            'recipient' => 'a@brackenfold.example',
            'subject' => 's',
            'body' => 'b',
            'state' => 'waiting',
            'made_us' => 1,
        ]);
        self::assertSame(0, app(Dispatcher::class)->send());
        $notification = Notification::query()->sole();
        self::assertSame(['kept', null], [$notification->state, $notification->sent_us]);
        $this->actingAs($this->person())->get('/ledger/outbox')->assertOk()->assertSee('kept');
    }

    public function test_passwords_that_are_tried_first_are_refused(): void
    {
        $rule = new StrongPassword(['Idris Pell', 'idris@brackenfold.example']);
        foreach (
            [
                'short',
                'password12345',
                'P@ssw0rd!2026',
                'Welcome123456',
                'qwertyuiop12',
                'aaaaaaaaaaaa',
                'abababababab',
                'Brackenfold-77!',
                'idris-is-here-9',
                '123456789012',
                'iloveyou123456',
                'SummerWinter2026',
                'adminadmin!!11',
                'LetMeIn-LetMeIn',
            ] as $weak
        ) {
            self::assertNotNull($rule->weakness($weak), $weak);
        }
        foreach (
            ['glasshouse-46-fern', 'correct horse battery staple', 'tR7#kq9!vLw2', 'vier kleine Wolken '
                .'ziehen', 'drizzle-ledger-otter-41'] as $strong
        ) {
            self::assertNull($rule->weakness($strong), $strong);
        }
        $person = $this->person(Role::Engineer);
        $change = fn (string $password) => $this->actingAs($person)->post('/account/password', [
            'current_password' => 'a long password',
            'password' => $password,
            'password_confirmation' => $password,
        ]);
        $change('password12345')->assertSessionHasErrors('password');
        $change('drizzle-ledger-otter-41')->assertSessionHasNoErrors();
    }

    public function test_a_new_password_ends_the_other_sessions(): void
    {
        $person = $this->person(Role::Engineer);
        $other = $this->person(Role::Viewer);
        foreach (['one' => $person->id, 'two' => $person->id, 'three' => $other->id] as $id => $user) {
            DB::table('sessions')->insert(['id' => $id, 'user_id' => $user, 'payload' => '', 'last_activity' => Clock::seconds()]);
        }
        $this->actingAs($person)
            ->post('/account/password', [
                'current_password' => 'a long password',
                'password' => 'drizzle-ledger-otter-41',
                'password_confirmation' => 'drizzle-ledger-otter-41',
            ])
            ->assertSessionHasNoErrors();
        self::assertSame(
            ['three'],
            DB::table('sessions')
                ->whereIn('id', ['one', 'two', 'three'])
                ->pluck('id')
                ->all(),
        );
    }

    public function test_signing_in_takes_as_much_work_for_an_address_nobody_has(): void
    {
        $this->person(Role::Engineer);
        $counting = new class($this->app) extends HashManager
        {
            public int $checks = 0;

            /** @param  array<mixed>  $options */
            public function check(#[\SensitiveParameter] $value, $hashedValue, array $options = [])
            {
                $this->checks++;

                return parent::check($value, $hashedValue, $options);
            }
        };
        Hash::swap($counting);
        foreach (['engineer@brackenfold.example', 'nobody@brackenfold.example'] as $email) {
            $this->post('/sign-in', ['email' => $email, 'password' => 'wrong'])->assertSessionHasErrors('email');
        }
        self::assertSame(2, $counting->checks);
    }

    public function test_names_of_folders_do_not_climb_and_forgetting_is_recorded(): void
    {
        $this->actingAs($this->person(Role::Engineer));
        $inside = storage_path('app/keep.txt');
        file_put_contents($inside, 'x');
        foreach (['..', '.', '...', '..%2F..', '.hidden', 'a..b'] as $name) {
            $this->post("/tune/layout-files/{$name}/forget")->assertNotFound();
            $this->get("/tune/layout/files/{$name}")->assertNotFound();
            app(Folders::class)->forget($name);
        }
        self::assertFileExists($inside);
        unlink($inside);
        @mkdir(storage_path('app/folders/some-old-one'), 0o700, true);
        $this->post('/tune/layout-files/some-old-one/forget')->assertRedirect();
        self::assertSame('some-old-one', DB::table('ledger_entries')->where('act', 'forgot a folder')->value('object'));
        self::assertDirectoryDoesNotExist(storage_path('app/folders/some-old-one'));
    }

    public function test_a_cluster_that_is_removed_takes_along_what_hangs_on_it(): void
    {
        $cluster = $this->cluster('gone');
        $kept = $this->cluster('kept');
        $tables = array_map(
            static fn (stdClass $row): string => $row->name,
            DB::select(
                "SELECT TABLE_NAME AS name FROM information_schema.COLUMNS WHERE TABLE_SCHEMA = DATABASE() AND COLUMN_NAME = 'cluster_id'",
            ),
        );
        self::assertGreaterThan(20, count($tables));
        foreach ([$cluster, $kept] as $one) {
            $file = $this->file([
                [
                    'started_at' => gmdate('Y-m-d\TH:i:s\Z', Clock::seconds() - 600),
                    'duration_us' => 5,
                    'sql' => 'SELECT 1',
                    'warnings' => ['odd'],
                ],
                'nothing',
            ]);
            Artisan::call('telemetry:import', ['file' => $file, '--cluster' => $one->slug]);
            $finding = DB::table('findings')->insertGetId(
                ['cluster_id' => $one->id, 'source' => 'storage', 'digest' => $one->slug, 'state' => 'open'] + self::blank('findings'),
            );
            DB::table('changes')->insert(
                ['cluster_id' => $one->id, 'finding_id' => $finding, 'kind' => 'index', 'state' => 'proposed'] + self::blank('changes'),
            );
        }
        $this->actingAs($this->person(Role::Owner))
            ->post('/tend/clusters/gone/remove', ['confirm' => 'Gone'])
            ->assertRedirect('/tend/clusters');
        foreach ($tables as $table) {
            $stays = in_array($table, ['changes', 'findings'], true) ? 1 : 0;
            self::assertSame($stays, DB::table($table)->where('cluster_id', $cluster->id)->count(), $table);
        }
        self::assertSame(
            [2, 2, 1],
            [DB::table('findings')->count(), DB::table('changes')->count(), DB::table('rejected_records')->count()],
            'those of the other are there, and of the ledger',
        );
        DB::table('changes')->delete();
        foreach (
            [
                '/',
                '/ledger',
                '/ledger/changes',
                '/ledger/outbox',
                '/tune/statements',
                '/tune/plans',
                '/tune/jobs',
                '/tune/imports',
                '/tend/clusters',
                '/guard/decisions',
            ] as $page
        ) {
            $this->get($page)->assertOk();
        }
    }

    /**
     * @return array<string, int|string> something for every column that has no default
     */
    private static function blank(string $table): array
    {
        $values = [];
        foreach (
            DB::select(
                'SELECT COLUMN_NAME AS name, DATA_TYPE AS type FROM information_schema.COLUMNS WHERE TABLE_SCHEMA = DATABASE() AND '
                    .'TABLE_NAME = ? AND IS_NULLABLE = "NO" AND COLUMN_DEFAULT IS NULL AND EXTRA = ""',
                [$table],
            ) as $column
        ) {
            $values[$column->name] = in_array($column->type, ['varchar', 'char'], true)
                ? ''
                : (in_array($column->type, ['text', 'mediumtext', 'longtext', 'json'], true)
                    ? '[]'
                    : 0);
        }

        return $values;
    }
}

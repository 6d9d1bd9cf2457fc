<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Models\Cluster;
use App\Ledger\Changes\Changes;
use App\Ledger\Changes\Inverse;
use App\Ledger\Changes\Proposal;
use App\Ledger\Models\Finding;
use App\Ledger\Models\LedgerEntry;
use App\Ledger\Models\ProofRecord;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use App\Telemetry\Store\LoadTables;
use App\Telemetry\Store\Partitions;
use Fulcrion\Core\Statements\LatencySketch;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use stdClass;
use Tests\TestCase;

/**
 * What happens to a cluster over its life: days are added and dropped, settings change, it is removed.
 */
final class MaintenanceTest extends TestCase
{
    private const DAY = 86_400;

    public function test_days_get_partitions_of_their_own_in_any_order(): void
    {
        $day = intdiv(time(), self::DAY) * self::DAY;
        $partitions = new Partitions();
        // Later, earlier, between, again.
        foreach (
            [
                [$day],
                [$day - 40 * self::DAY, $day - 38 * self::DAY],
                [$day - 20 * self::DAY + 600, $day - 39 * self::DAY],
                [$day, $day - 40 * self::DAY],
            ] as $buckets
        ) {
            $partitions->ensure($buckets);
        }
        foreach (Partitions::TABLES as $table) {
            $bounds = array_map(
                static fn (stdClass $row): string => $row->bound,
                DB::select(
                    'SELECT partition_description AS bound FROM information_schema.partitions WHERE table_schema = DATABASE() AND '
                        .'table_name = ? ORDER BY partition_ordinal_position',
                    [$table],
                ),
            );
            self::assertSame('MAXVALUE', array_pop($bounds));
            foreach ([0, 20, 38, 39, 40] as $back) {
                self::assertContains((string) ($day - $back * self::DAY), $back === 0 ? [(string) $day] : $bounds);
                self::assertContains(
                    (string) ($day - $back * self::DAY + self::DAY),
                    $bounds,
                    "{$table} has the day {$back} days back to itself",
                );
            }
            self::assertSame($bounds, array_values(array_unique($bounds)));
        }
    }

    public function test_what_outlived_its_retention_goes_and_the_rest_stays_whole(): void
    {
        $cluster = $this->cluster();
        $cluster->update(['retention_days' => 14]);
        $now = time();
        $this->import([
            $this->execution($now - 60 * self::DAY, 'SELECT old'),
            $this->execution($now - 3 * self::DAY, 'SELECT young'),
            $this->execution($now - 600, 'SELECT newest'),
        ]);
        self::assertSame(3, $this->executions());
        Artisan::call('telemetry:prune');
        foreach (LoadTables::BY_BUCKET as $table) {
            // What is known finely is of live servers only.
            if (str_starts_with($table, 'load_') && $table !== 'load_half_minute') {
                self::assertEquals(2, DB::table($table)->sum('executions'), $table);
            }
        }
        self::assertSame(2, DB::table('statement_presence')->count());
        self::assertSame(2, DB::table('samples')->count());
        $this->actingAs($this->person())->get('/tune/statements?window=last+28+days')->assertOk()->assertSee('of 2 statements');
    }

    public function test_grown_sketches_are_written_shorter_and_say_the_same(): void
    {
        $this->cluster();
        $this->import([$this->execution(time() - 900, 'SELECT a')]);
        $long = str_repeat(LatencySketch::of([500, 900, 70_000])->toBinary(), 2_000);
        DB::table('load_hour')->update(['sketch' => $long]);
        Artisan::call('telemetry:prune');
        $short = DB::table('load_hour')->value('sketch');
        self::assertSame(12, strlen($short));
        self::assertSame(LatencySketch::fromBinary($long)->toBinary(), $short);
    }

    public function test_a_cluster_is_added_changed_given_a_token_and_removed_with_all_it_had(): void
    {
        $this->actingAs($this->person(Role::Engineer));
        $this->post('/tend/clusters', [
            'connector' => 'mariadb',
            'name' => 'Alder',
            'role' => 'production',
            'host' => 'not a host',
            'port' => 99_999,
            'username' => 'u',
        ])->assertSessionHasErrors(['host', 'port', 'secret']);
        $this->post('/tend/clusters', [
            'connector' => 'mariadb',
            'name' => 'Alder',
            'role' => 'production',
            'host' => 'db.example',
            'port' => 3306,
            'username' => 'watcher',
            'secret' => 'hush-hush',
            'tls' => 1,
        ])->assertRedirect('/tend/clusters/alder');
        $stored = DB::table('clusters')->where('slug', 'alder')->first();
        self::assertStringNotContainsString('hush', (string) json_encode($stored));
        $alder = Cluster::query()->where('slug', 'alder')->firstOrFail();
        self::assertSame(['watcher', 'hush-hush', true], [$alder->username, $alder->secret, $alder->tls]);
        // An empty password field keeps the password; an absent check mark takes the mark away.
        $settings = [
            'name' => 'Alder',
            'role' => 'production',
            'host' => 'db.example',
            'port' => 3307,
            'username' => 'watcher',
            'interval_seconds' => 60,
            'retention_days' => 30,
            'sample_days' => 7,
        ];
        $this->post('/tend/clusters/alder', $settings)->assertSessionHas('done');
        self::assertSame(['hush-hush', 3307, false, 60], [$alder->refresh()->secret, $alder->port, $alder->tls, $alder->interval_seconds]);
        $this->post('/tend/clusters/alder', ['interval_seconds' => 2] + $settings)->assertSessionHasErrors('interval_seconds');
        $this->get('/tend/clusters/alder')->assertOk()->assertDontSee('hush-hush');

        $this->post('/tend/clusters', [
            'connector' => 'files',
            'name' => 'Alder',
            'role' => 'production',
            'dialect' => 'ansi',
        ])->assertRedirect('/tend/clusters/alder-2');
        $this->post('/tend/clusters/alder-2/tokens', ['token_name' => 'sender'])->assertSessionHas('token');
        $token = session('token');
        self::assertStringNotContainsString(
            explode('|', (string) $token)[1],
            (string) json_encode(DB::table('personal_access_tokens')->get()),
        );
        $this->post('/tend/clusters/alder-2/tokens/'.DB::table('personal_access_tokens')->value('id').'/revoke')->assertSessionHas(
            'done',
        );
        self::assertSame(0, DB::table('personal_access_tokens')->count());
        $this->import([$this->execution(time() - 900, 'SELECT a'), '{broken'], 'alder-2');
        $this->post('/tend/clusters/alder-2/remove', ['confirm' => 'alder'])->assertSessionHas('failed');
        self::assertSame(1, $this->executions());
        $this->post('/tend/clusters/alder-2/remove', ['confirm' => 'Alder'])->assertSessionHas('done');
        foreach ([...LoadTables::BY_BUCKET, 'samples', 'statement_presence', 'imports', 'rejected_records'] as $table) {
            self::assertSame(0, DB::table($table)->count(), $table);
        }
        self::assertSame(
            ['added a cluster', 'changed a cluster', 'added a cluster', 'made a token', 'revoked a token', 'removed a cluster'],
            LedgerEntry::query()->orderBy('number')->pluck('act')->all(),
        );
        self::assertStringNotContainsString('hush', (string) json_encode(DB::table('ledger_entries')->get()));
    }

    public function test_what_was_changed_and_proved_of_a_removed_cluster_can_still_be_read(): void
    {
        $cluster = $this->cluster();
        $finding = static fn (string $digit): Finding => Finding::query()->create([
            'cluster_id' => $cluster->id,
            'source' => 'storage',
            'rule' => 'skew',
            'object' => 'field.pick',
            'digest' => str_repeat($digit, 32),
            'severity' => 'act',
            'problem' => "Uneven {$digit}",
            'evidence' => [],
            'state' => 'open',
            'first_us' => 1,
            'last_us' => 1,
            'changed_us' => 1,
        ]);
        [$changed, $alone] = [$finding('1'), $finding('2')];
        $change = app(Changes::class)->propose(
            $cluster,
            $changed,
            new Proposal(
                'field.pick',
                'Fresh statistics',
                'statistics',
                ['ANALYZE TABLE field.pick'],
                Inverse::none(),
                0.0,
                0.0,
                0.0,
                0.0,
                [],
                [],
            ),
            $this->person(Role::Owner),
        );
        $proof = ProofRecord::query()->create([
            'change_id' => $change->id,
            'kind' => 'rehearsal',
            'made_us' => 1,
            'made_by' => 'x',
            'conditions' => [],
            'measured' => '[]',
            'sentence' => 'It is the same',
            'factor' => 1.0,
            'holds' => true,
        ]);
        $cluster->forceFill(['secret' => 'hush-hush'])->save();
        $this->actingAs($this->person(Role::Owner));
        $this->post("/tend/clusters/{$cluster->slug}/remove", ['confirm' => $cluster->name])->assertSessionHas('done');
        self::assertNull(Cluster::query()->first());
        self::assertNull(Finding::query()->find($alone->id), 'nothing was done about it');
        $this->get('/')->assertOk()->assertDontSee('Uneven');
        $this->get('/tend/clusters')->assertOk()->assertDontSee($cluster->name);
        foreach (
            [
                "/ledger/findings/{$changed->id}", "/ledger/changes/{$change->id}", "/ledger/proofs/{$proof->id}", '/ledger/changes',
                '/ledger/proofs', '/ledger/findings?state=solved',
            ] as $page
        ) {
            self::assertStringContainsString($cluster->name, (string) $this->get($page)->assertOk()->getContent(), $page);
        }
        $this->get("/ledger/changes/{$change->id}")->assertDontSee('/rehearse');
        $this->post("/ledger/changes/{$change->id}/rehearse")->assertForbidden();
        $left = (array) DB::table('clusters')->sole();
        self::assertSame([null, null], [$left['secret'], $left['host']]);
        // Its name and address are free again.
        $this->post('/tend/clusters', ['connector' => 'files', 'name' => $cluster->name, 'role' => 'production', 'dialect' => 'ansi'])
            ->assertRedirect("/tend/clusters/{$cluster->slug}");
    }

    public function test_a_cluster_is_calm_only_where_it_is_read_and_nothing_waits(): void
    {
        $cluster = $this->cluster();
        $this->import([$this->execution(time() - 900, 'SELECT a')]);
        $this->actingAs($this->person(Role::Viewer));
        $this->get('/tend/clusters')->assertOk()->assertSee('calm');
        $finding = Finding::query()->create([
            'cluster_id' => $cluster->id, 'source' => 'storage', 'rule' => 'skew', 'object' => 'field.pick',
            'digest' => str_repeat('1', 32), 'severity' => 'act', 'problem' => 'Uneven', 'evidence' => [], 'state' => 'open',
            'first_us' => 1, 'last_us' => 1, 'changed_us' => 1,
        ]);
        $this->get('/tend/clusters')
            ->assertDontSee('calm')
            ->assertSee('1 finding')
            ->assertSee('findings?cluster=fernhill', false);
        $finding->update(['state' => 'solved']);
        $this->get('/tend/clusters')->assertSee('calm');
        $cluster->forceFill(['connector' => 'mariadb', 'interval_seconds' => 30]);
        $cluster->forceFill(['polled_at' => Clock::now()->subSeconds(88)])->save();
        $this->get('/tend/clusters')->assertSee('calm');
        $cluster->forceFill(['polled_at' => Clock::now()->subSeconds(95)])->save();
        $this->get('/tend/clusters')->assertOk()->assertDontSee('calm')->assertSee('silent');
        $cluster->forceFill(['interval_seconds' => 10, 'polled_at' => Clock::now()->subSeconds(55)])->save();
        $this->get('/tend/clusters')->assertSee('calm');
        $cluster->forceFill(['paused' => true, 'polled_at' => Clock::now()->subSeconds(500)])->save();
        $this->get('/tend/clusters')->assertDontSee('silent')->assertSee('paused');
    }

    public function test_one_changes_name_zone_paper_and_password(): void
    {
        $this->actingAs($this->person(Role::Viewer));
        $this->post('/account', ['name' => 'Joon', 'time_zone' => 'Moon/Base', 'theme' => 'day'])->assertSessionHasErrors('time_zone');
        $this->post('/account', ['name' => 'Joon', 'time_zone' => 'Asia/Kathmandu', 'theme' => 'night'])->assertSessionHas('done');
        $this->cluster();
        $this->import([$this->execution(1_795_154_400, 'SELECT a')]);
        // 06:00 UTC is 11:45 there, and the page is on night paper.
        $this->actingAs($this->person(Role::Viewer))
            ->get('/tune/statements?window=2026-11-20+11:45-11:50')
            ->assertOk()
            ->assertSee('1 of 1 statements')
            ->assertSee('data-theme="night"', false);
        $this->post('/account/password', [
            'current_password' => 'wrong',
            'password' => 'another long one',
            'password_confirmation' => 'another long one',
        ])->assertSessionHasErrors('current_password');
        $this->post('/account/password', [
            'current_password' => 'a long password',
            'password' => 'short',
            'password_confirmation' => 'short',
        ])->assertSessionHasErrors('password');
        $this->post('/account/password', [
            'current_password' => 'a long password',
            'password' => 'another long one',
            'password_confirmation' => 'another long one',
        ])->assertSessionHas('done');
        $this->post('/sign-out')->assertRedirect('/sign-in');
        $this->post('/sign-in', ['email' => 'viewer@brackenfold.example', 'password' => 'another long one'])->assertRedirect('/');
    }

    /**
     * @param  list<array<string, mixed>|string>  $records
     */
    private function import(array $records, string $cluster = 'fernhill'): void
    {
        self::assertSame(
            0,
            Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => $cluster]),
            Artisan::output(),
        );
    }

    /**
     * @return array<string, mixed>
     */
    private function execution(int $at, string $sql): array
    {
        return ['started_at' => $at, 'duration_us' => 1_000, 'sql' => $sql, 'user' => 'ada'];
    }
}

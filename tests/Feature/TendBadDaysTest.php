<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Models\Cluster;
use App\Health\Application\Setup;
use App\Health\Application\SetupStep;
use App\Metrics\Store\PointStore;
use App\Platform\Support\Role;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\Points;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * Whatever an address asks for, and however little is known, a page of Tend says something sensible.
 */
#[Group('today')]
final class TendBadDaysTest extends TestCase
{
    private const NOW = 1_795_392_000;

    private Cluster $cluster;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW));
        $this->cluster = $this->cluster();
        $this->actingAs($this->person(Role::Engineer));
    }

    protected function tearDown(): void
    {
        Carbon::setTestNow();
        parent::tearDown();
    }

    /**
     * @return array<string, array{string}>
     */
    public static function pages(): array
    {
        $pages = [];
        foreach (['beside', 'hosts', 'live', 'live/part', 'time', 'moment', 'moment/file', 'system', 'lines', 'state', 'sources',
            'setup/fernhill'] as $page) {
            $pages[$page] = ["/tend/{$page}"];
        }

        return $pages;
    }

    /** One host with a name nobody would give it, one reading, and one execution. */
    private function little(): void
    {
        app(PointStore::class)->take($this->cluster->id, '<b>"fern"</b>', (self::NOW - 100) * 1_000, [
            new Metric('system.cpu.time', 's', 5.0, ['cpu.mode' => 'user'], true), new Metric('odd <i>', '1', -0.5, ['a' => '"><script>']),
            new Metric('system.disk.io', 'By', 5.0, ['disk.io.direction' => 'read'], true),
        ]);
        Artisan::call('telemetry:import', ['file' => $this->file([
            ['started_at' => self::NOW - 90, 'duration_us' => 60_000_000, 'sql' => 'SELECT 1 FROM t', 'user' => '<script>ada</script>'],
        ]), '--cluster' => 'fernhill']);
    }

    #[DataProvider('pages')]
    public function test_odd_questions_have_an_answer_and_nothing_is_told_unescaped(string $page): void
    {
        foreach ([false, true] as $isKnown) {
            if ($isKnown) {
                $this->little();
            }
            foreach ([
                '', 'window=last+400+days', 'window=1970-01-01', 'window=2099-01-01', 'window=9999-99-99', 'window=last+1+minute', 'at=now',
                'at=1970-01-01+00:00', 'at=2099-01-01+00:00', 'at=-1', 'at=%00', 'cluster=%27%22',
                'host=%3Cb%3E%22fern%22%3C%2Fb%3E&cluster=fernhill',
                'measure=processor&window=last+28+days', 'measure=%FF', 'statement='.str_repeat('f', 32), 'statement=x', 'account=%25',
                'account=%3Cscript%3Eada%3C%2Fscript%3E', 'paused=2', 'at=yesterday+11:00&host=nobody&cluster=none',
            ] as $query) {
                $answer = $this->get("{$page}?{$query}");
                self::assertContains($answer->getStatusCode(), [200, 400], "{$page}?{$query}");
                $html = (string) $answer->getContent();
                self::assertStringNotContainsString('<script>ada', $html);
                self::assertStringNotContainsString('"><script>', $html);
                self::assertStringNotContainsString('<b>"fern"', $html);
                self::assertDoesNotMatchRegularExpression('~Warning:|Notice:|Undefined|NAN|\bINF\b~', $html, "{$page}?{$query}");
            }
        }
    }

    public function test_two_clusters_may_have_a_host_of_one_name(): void
    {
        $wren = $this->cluster('wren');
        foreach ([$this->cluster->id => 1.0, $wren->id => 3.0] as $id => $share) {
            $user = $idle = [];
            for ($i = 0; $i <= 20; $i++) {
                $user[] = [(self::NOW - 600 + 30 * $i) * 1_000, 10.0 * $i * $share];
                $idle[] = [(self::NOW - 600 + 30 * $i) * 1_000, 30.0 * $i];
            }
            app(PointStore::class)->keep($id, 'node-1', [
                [new Metric('system.cpu.time', 's', 0.0, ['cpu.mode' => 'user'], true), Points::of($user)],
                [new Metric('system.cpu.time', 's', 0.0, ['cpu.mode' => 'idle'], true), Points::of($idle)],
            ]);
        }
        $this->get('/tend/hosts?cluster=fernhill&host=node-1')->assertOk()->assertSee('node-1 was 25% busy');
        $this->get('/tend/hosts?cluster=wren&host=node-1')->assertOk()->assertSee('node-1 was 50% busy');
        $this->get('/tend/live?cluster=wren&host=node-1')->assertOk()->assertSee('node-1 is 50% busy');
        $this->get('/tend/hosts?host=nobody')->assertOk()->assertSee('node-1');
    }

    public function test_what_monitoring_lacks_is_told_for_clusters_of_every_kind(): void
    {
        $titles = fn (): array => array_map(static fn (SetupStep $one): array => [$one->title, $one->mark],
            app(Setup::class)->steps($this->cluster));
        self::assertSame([['Executions come in', 'watch'], ['Where it is kept', 'calm'], ['Its hosts', 'watch'], ['A probe', 'watch']],
            $titles());
        $this->little();
        self::assertSame([['Executions come in', 'calm'], ['Where it is kept', 'calm'], ['Its hosts', 'calm'], ['A probe', 'watch']],
            $titles());
        // What is not computed yet, and what cannot be asked, is said in words.
        $this->from('/tend/setup/fernhill')->post('/tend/setup/fernhill')->assertRedirect('/tend/setup/fernhill')
            ->assertSessionHas('failed', 'Nodes of Fernhill are not computed yet; that is done every five minutes.');
        DB::table('practice_nodes')->insert(['cluster_id' => $this->cluster->id, 'until_at' => self::NOW, 'counters' => '[]']);
        $this->post('/tend/setup/fernhill')->assertSessionHas('compared');
        $this->get('/tend/setup/fernhill')->assertOk()->assertSee('Monitoring of Fernhill lacks');
    }
}

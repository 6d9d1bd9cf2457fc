<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Capacity\Application\CapacityMeter;
use App\Capacity\Application\CapacitySignals;
use App\Capacity\Application\CapacityStore;
use App\Estate\Connectors\Connectors;
use App\Estate\Connectors\MariaDbSamples;
use App\Estate\Connectors\MariaDbSettings;
use App\Estate\Connectors\MariaDbSpace;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Health\Application\ClusterLines;
use App\Metrics\Signals\SignalSources;
use App\Platform\Support\Role;
use Fulcrion\Core\Capacity\StorageReading;
use Fulcrion\Core\Capacity\StoredPart;
use PDO;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;
use Tests\WatchedServer;

/**
 * What a real server says of its space, its variables and its sessions: held against its own answers.
 */
#[Group('today')]
final class HostSourcesTest extends TestCase
{
    use WatchedServer;

    private function serve(): Cluster
    {
        if (self::started()) {
            self::admin()->exec("CREATE USER ender@'127.0.0.1' IDENTIFIED BY 'e'");
            self::admin()->exec("GRANT CONNECTION ADMIN ON *.* TO ender@'127.0.0.1'");
            self::admin()->exec('CREATE DATABASE farm');
            self::admin()->exec('CREATE TABLE farm.pick (id INT PRIMARY KEY, crew VARCHAR(200)) ENGINE = InnoDB');
            self::admin()->exec("INSERT INTO farm.pick SELECT seq, REPEAT('x', 190) FROM farm.seq_1_to_5000");
            self::admin()->exec('CREATE VIEW farm.shown AS SELECT id FROM farm.pick');
            self::admin()->exec('ANALYZE TABLE farm.pick');
            self::admin()->exec("GRANT SELECT ON farm.* TO watcher@'127.0.0.1'");
        }

        return $this->watched('orchard', ['ender_username' => 'ender', 'ender_secret' => 'e']);
    }

    public function test_the_space_of_tables_is_what_the_engine_says(): void
    {
        $cluster = $this->serve();
        $space = new MariaDbSpace($cluster);
        $parts = array_column(array_map(static fn (StoredPart $one): array => [$one->name(), $one->bytes], $space->stored()), 1, 0);
        $own = self::admin()->query("SELECT DATA_LENGTH + INDEX_LENGTH FROM information_schema.TABLES WHERE TABLE_NAME = 'pick'")
            ->fetchColumn();
        self::assertSame((float) $own, $parts['farm.pick']);
        self::assertGreaterThan(900_000.0, $parts['farm.pick'], '5,000 rows of 190 letters');
        self::assertArrayNotHasKey('farm.shown', $parts, 'a view takes none');
        app(CapacityMeter::class)->measure($cluster, 1_795_824_000);
        $kept = app(CapacityStore::class)->parts($cluster->id, 1_795_824_000);
        self::assertSame('farm.pick', $kept[0]->object, 'the largest first');
    }

    public function test_variables_are_those_of_the_server(): void
    {
        $settings = (new MariaDbSettings($this->serve()))->settings()[''];
        $own = [];
        foreach (self::admin()->query('SELECT LOWER(VARIABLE_NAME), VARIABLE_VALUE FROM information_schema.GLOBAL_VARIABLES')
            ->fetchAll(PDO::FETCH_NUM) as [$name, $value]) {
            $own["mariadb.{$name}"] = (string) $value;
        }
        self::assertGreaterThan(400, count($settings));
        self::assertSame([], array_diff_assoc($settings, $own));
        self::assertArrayNotHasKey('mariadb.timestamp', $settings, 'what changes by itself is no setting');
    }

    public function test_trying_a_variable_sets_it_to_what_it_is(): void
    {
        $source = new MariaDbSettings($this->serve());
        self::admin()->exec('SET GLOBAL max_password_errors = 777');
        self::assertSame('777', $source->trySetting('', 'mariadb.max_password_errors'));
        self::assertSame('777', (string) self::admin()->query('SELECT @@GLOBAL.max_password_errors')->fetchColumn());
        self::assertTrue($source->canSet('mariadb.max_password_errors'));
        self::assertFalse($source->canSet('vm.swappiness'));
        self::assertFalse((new MariaDbSettings($this->watched('barn')))->canSet('mariadb.max_password_errors'),
            'without an account that may act');
        foreach (['mariadb.no_such', 'vm.swappiness'] as $name) {
            try {
                $source->trySetting('', $name);
                self::fail("{$name} was tried");
            } catch (SourceError $error) {
                self::assertStringContainsString('knows no variable', $error->getMessage());
            }
        }
    }

    public function test_what_is_set_is_what_the_server_then_says(): void
    {
        $source = new MariaDbSettings($this->serve());
        foreach ([['max_connect_errors', '123'], ['max_password_errors', '55'], ['connect_timeout', '9']] as [$name, $value]) {
            $before = (string) self::admin()->query("SELECT @@GLOBAL.{$name}")->fetchColumn();
            $source->set('', "mariadb.{$name}", $value);
            self::assertSame($value, (string) self::admin()->query("SELECT @@GLOBAL.{$name}")->fetchColumn());
            $source->set('', "mariadb.{$name}", $before);
            self::assertSame($before, $source->settings()[''][("mariadb.{$name}")]);
        }
        $this->expectException(SourceError::class);
        $source->set('', 'mariadb.x; DROP', '1');
    }

    public function test_sessions_at_work_are_told_by_stage_and_those_that_rest_are_not(): void
    {
        $source = new MariaDbSamples($this->serve());
        $idle = self::server()->session('farm');
        self::assertNotSame(0, $idle->thread_id);
        self::assertSame([], array_filter($source->sample(), static fn (array $frames): bool => $frames[0] === 'root'
            && $frames[1] === 'SELECT'));
        $busy = self::server()->session('farm');
        $busy->query('SELECT /* secret 4711 */ SLEEP(3) FROM (SELECT 1) x', MYSQLI_ASYNC);
        usleep(200_000);
        $found = array_values(array_filter($source->sample(), static fn (array $frames): bool => $frames[1] === 'SELECT'));
        self::assertCount(1, $found);
        self::assertSame(['root', 'SELECT', 'User sleep'], array_slice($found[0], 0, 3));
        self::assertStringNotContainsString('4711', implode(' ', $found[0]));
        $cluster = $this->watched('away', ['port' => 1]);
        $this->expectException(SourceError::class);
        (new MariaDbSamples($cluster))->sample();
    }

    public function test_a_connector_says_what_it_lacks_by_having_nothing(): void
    {
        $connectors = app(Connectors::class);
        $files = $this->cluster('files');
        self::assertNull($connectors->settings($files));
        self::assertNull($connectors->space($files));
        self::assertNull($connectors->samples($files));
        $own = $this->serve();
        self::assertInstanceOf(MariaDbSettings::class, $connectors->settings($own));
        self::assertInstanceOf(MariaDbSpace::class, $connectors->space($own));
        self::assertInstanceOf(MariaDbSamples::class, $connectors->samples($own));
    }

    public function test_how_full_a_cluster_is_stands_under_its_row_and_can_be_watched(): void
    {
        $fern = $this->cluster();
        $now = 1_795_824_000;
        app(CapacityStore::class)->keep($fern->id, CapacityStore::WHOLE, new StorageReading($now - 3_600, 60.0, 100.0),
            new StorageReading($now, 75.0, 100.0));
        $this->actingAs($this->person(Role::Viewer));
        $line = app(ClusterLines::class)->at($now + 60)[0];
        self::assertSame(0.75, $line->fullness);
        self::assertNull(app(ClusterLines::class)->at($now + 4 * 3_600)[0]->fullness, 'after hours nobody knows');
        $signal = app(SignalSources::class)->find($fern, 'capacity:share');
        self::assertTrue($signal?->isLimited, 'so that the day it is reached can be foreseen');
        self::assertSame('75%', $signal->say(0.75));
        $values = app(CapacitySignals::class)->values($fern, 'share', $now - 7_200, $now + 7_200, 3_600)[''];
        self::assertSame([null, 0.6, 0.75, 0.75], $values);
        self::assertSame([], app(CapacitySignals::class)->values($fern, 'other', $now, $now + 60, 60));
    }
}

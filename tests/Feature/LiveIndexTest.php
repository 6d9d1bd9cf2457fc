<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Connectors\MariaDbIndexes;
use App\Estate\Connectors\SourceError;
use App\Ledger\Models\Finding;
use App\Platform\Runs\RunStopped;
use App\Platform\Support\Role;
use App\Telemetry\Collect\Collector;
use App\Tuning\Application\IndexAudit;
use Fulcrion\Core\Storage\Indexes\Index;
use Illuminate\Support\Facades\Artisan;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;
use Tests\WatchedServer;

/**
 * Indexes of a real MariaDB that others use while somebody tries and makes them.
 */
#[Group('today')]
final class LiveIndexTest extends TestCase
{
    use WatchedServer;

    protected function setUp(): void
    {
        parent::setUp();
        if (self::started()) {
            $pdo = self::admin();
            $pdo->exec("CREATE USER adviser@'127.0.0.1' IDENTIFIED BY 'w'");
            $pdo->exec("GRANT SELECT ON performance_schema.* TO adviser@'127.0.0.1'");
            $pdo->exec("GRANT SELECT ON farm.* TO watcher@'127.0.0.1'");
            $pdo->exec("GRANT ALL ON `farm%`.* TO adviser@'127.0.0.1'");
        }
        $pdo = self::admin();
        foreach (['farm', 'farm_rehearsal', 'barn'] as $schema) {
            $pdo->exec("DROP DATABASE IF EXISTS {$schema}");
        }
        $pdo->exec('CREATE DATABASE farm');
        $pdo->exec('CREATE DATABASE barn');
        $pdo->exec('USE farm');
        $pdo->exec('CREATE TABLE pick (id INT PRIMARY KEY, bay INT, kilos INT, note VARCHAR(20), KEY by_bay (bay), KEY by_bay_kilos (bay, '
            .'kilos)) ENGINE=InnoDB');
        // With holes: nobody counts on numbers without any.
        $pdo->exec("INSERT INTO pick SELECT seq * 7, seq % 10, FLOOR(POW(RAND(3), 2) * 900), CONCAT('n', seq) FROM seq_1_to_30000");
        $pdo->exec('CREATE TABLE barn.hay (id INT PRIMARY KEY, kilos INT) ENGINE=InnoDB');
        $pdo->exec('INSERT INTO barn.hay SELECT seq, seq % 5 FROM seq_1_to_3000');
        $pdo->query('ANALYZE TABLE pick, barn.hay')->fetchAll();
        $this->watched('farm', ['is_own' => false, 'username' => 'adviser']);
    }

    public function test_a_copy_has_all_rows_or_a_sample_of_all_places_and_locks_nothing(): void
    {
        $source = new MariaDbIndexes($this->cluster);
        $pdo = self::admin();
        // Somebody has changed rows and not yet said whether it stays so.
        $writer = self::server()->session('farm');
        $writer->query('BEGIN');
        $writer->query("UPDATE pick SET note = 'changed' WHERE id = 7");
        $told = [];
        [$copy, $rows] = $source->copy('farm.pick', 'whole', 1.0, static function (float $part) use (&$told): void {
            $told[] = $part;
        });
        self::assertSame(['farm_rehearsal.whole', 30_000], [$copy, $rows]);
        $sum = static fn (string $table): array => (array) $pdo->query("SELECT COUNT(*), SUM(kilos), SUM(bay) FROM {$table}")->fetch();
        self::assertSame($sum('farm.pick'), $sum($copy));
        self::assertGreaterThan(10, count($told), 'in small parts');
        self::assertGreaterThan(0.9, max($told));
        [$copy, $rows] = $source->copy('farm.pick', 'some', 0.1, static fn (float $part) => null);
        self::assertEqualsWithDelta(3_000, $rows, 300);
        self::assertSame($rows, (int) $pdo->query("SELECT COUNT(DISTINCT id) FROM {$copy}")->fetchColumn(), 'no row twice');
        // A tenth of each tenth.
        foreach ($pdo->query("SELECT FLOOR(id / 21000), COUNT(*) FROM {$copy} WHERE id < 210000 GROUP BY 1")->fetchAll() as $tenth) {
            self::assertEqualsWithDelta(300, (int) $tenth[1], 60);
        }
        $writer->query('ROLLBACK');
        $this->expectException(RunStopped::class);
        $source->copy('farm.pick', 'stopped', 1.0, static fn (float $part) => throw new RunStopped());
    }

    public function test_values_and_spans_are_counted_in_a_sample_and_near_the_truth(): void
    {
        $source = new MariaDbIndexes($this->cluster);
        $pdo = self::admin();
        $truth = static fn (string $what): float => (float) $pdo->query("SELECT {$what} FROM farm.pick")->fetchColumn();
        $distinct = $source->distinct('farm.pick', ['bay', 'kilos', 'note']);
        self::assertEqualsWithDelta(10.0, $distinct['bay'], 0.1);
        self::assertEqualsWithDelta($truth('COUNT(DISTINCT kilos)'), $distinct['kilos'], 100);
        self::assertGreaterThan(20_000, $distinct['note'], 'nearly all are there once');
        $keeping = $source->keeping('farm.pick', 'p', ['few' => 'p.kilos > 850', 'none' => 'p.kilos < -5', 'most' => 'p.kilos >= 1']);
        self::assertEqualsWithDelta($truth('AVG(kilos > 850)'), $keeping['few'], 0.01);
        self::assertEqualsWithDelta($truth('AVG(kilos >= 1)'), $keeping['most'], 0.02);
        self::assertGreaterThan(0.0, $keeping['none'], 'none of the sample is not none of the table');
        self::assertLessThan(0.001, $keeping['none']);
        $shares = $source->shares('farm.pick', ['bay', 'note']);
        self::assertEqualsWithDelta(0.1, $shares['bay']['3'], 0.01);
        self::assertSame([], $shares['note'] ?? [], 'what is there once is no frequent value');
    }

    public function test_what_an_account_may_not_do_is_named_before_anything_is_approved(): void
    {
        self::assertSame([], (new MariaDbIndexes($this->cluster))->lacking('farm.pick'));
        $this->cluster->forceFill(['username' => 'watcher'])->save();
        $source = new MariaDbIndexes($this->cluster->refresh());
        self::assertSame(
            [
                "GRANT INDEX ON `farm`.`pick` TO 'watcher'@'127.0.0.1'",
                "GRANT SELECT, INSERT, CREATE, DROP, INDEX ON `farm_rehearsal`.* TO 'watcher'@'127.0.0.1'",
            ],
            $source->lacking('farm.pick'),
        );
        $pdo = self::admin();
        foreach ($source->lacking('farm.pick') as $grant) {
            $pdo->exec($grant);
        }
        self::assertSame([], (new MariaDbIndexes($this->cluster))->lacking('farm.pick'), 'with what was named it may');
        $pdo->exec("REVOKE ALL PRIVILEGES, GRANT OPTION FROM watcher@'127.0.0.1'");
        $pdo->exec("GRANT SELECT ON performance_schema.* TO watcher@'127.0.0.1'");
        $pdo->exec("GRANT SELECT ON farm.* TO watcher@'127.0.0.1'");
    }

    public function test_an_index_is_made_beside_others_and_given_up_where_the_table_is_held(): void
    {
        $source = new MariaDbIndexes($this->cluster);
        $names = static fn (): array => array_map(static fn (Index $one): string => $one->name, $source->tables()['farm.pick']->indexes);
        $source->online('CREATE INDEX `by_note` ON `farm`.`pick` (`note`)');
        self::assertContains('by_note', $names());
        $source->online('DROP INDEX `by_note` ON `farm`.`pick`');
        self::assertNotContains('by_note', $names());
        try {
            $source->online('DROP INDEX `by_note` ON `farm`.`pick`');
            self::fail('it was dropped twice');
        } catch (SourceError $error) {
            self::assertSame('It is not on the table any more: somebody dropped it meanwhile. Nothing was changed.', $error->getMessage());
        }
        $holder = self::server()->session('farm');
        $holder->query('BEGIN');
        $holder->query('SELECT COUNT(*) FROM pick')->free();
        $began = microtime(true);
        try {
            $source->online('CREATE INDEX `by_note` ON `farm`.`pick` (`note`)');
            self::fail('it did not wait');
        } catch (SourceError $error) {
            self::assertStringStartsWith('Somebody held the table for 10 s, so nothing was changed.', $error->getMessage());
        }
        self::assertLessThan(20, microtime(true) - $began);
        self::assertNotContains('by_note', $names());
    }

    public function test_needless_indexes_are_found_and_tables_that_cannot_be_looked_at_are_named(): void
    {
        Artisan::call('indexes:audit', ['cluster' => 'farm']);
        $finding = Finding::waiting()->where('source', IndexAudit::SOURCE)->sole();
        self::assertSame(
            'The index by_bay of farm.pick is there for nothing: by_bay_kilos (bay, kilos) begins with the same columns',
            $finding->problem,
        );
        self::assertGreaterThan(0, $finding->spare_bytes);
        self::admin()->exec('DROP INDEX by_bay ON farm.pick');
        Artisan::call('indexes:audit', ['cluster' => 'farm']);
        self::assertSame('solved', $finding->refresh()->state->value);
        // Statements of a schema this account does not see.
        $collector = app(Collector::class);
        $collector->poll($this->cluster);
        $client = self::server()->session('barn');
        for ($i = 0; $i < 5; $i++) {
            $client->query('SELECT id FROM hay WHERE kilos = 3')->free();
        }
        $collector->poll($this->cluster->refresh());
        $this->actingAs($this->person(Role::Engineer))->get('/tune/indexes?cluster=farm')
            ->assertOk()
            ->assertSee('No index of Farm is missing as far as its tables can be looked at')
            ->assertSee('barn.hay')
            ->assertSee("GRANT SELECT ON `barn`.* TO 'adviser'@'127.0.0.1'");
    }
}

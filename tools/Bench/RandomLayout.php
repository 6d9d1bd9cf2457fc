<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Plans\PlanTotals;
use Fulcrion\Core\Storage\Advice;
use Fulcrion\Core\Storage\Distribution;
use Fulcrion\Core\Storage\DistributionAdvisor;
use Fulcrion\Core\Storage\Estate;
use Fulcrion\Core\Storage\FullAdvice;
use Fulcrion\Core\Storage\Partitioning;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Core\Storage\UseReader;
use Fulcrion\Core\Storage\Workload;
use Fulcrion\Practice\Engine;
use Fulcrion\Practice\Physical\ChunkCache;
use Fulcrion\Practice\Physical\Limits;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\LayoutReader;
use Fulcrion\Practice\Storage\TableWriter;
use Fulcrion\Practice\Storage\Warehouse;
use Random\Engine\Mt19937;
use Random\Randomizer;
use RuntimeException;

/**
 * A table of picks laid out at random among two others, with a workload at random: what is advised on it, and what the
 * workload then takes when the advice is followed.
 */
final class RandomLayout
{
    private const NOW_US = 1_795_000_000_000_000;

    private const DAYS = 90;

    private const TABLE = 'field.pick';

    private readonly Randomizer $random;

    private readonly Warehouse $warehouse;

    /** @var list<StatementUse> */
    private array $statements = [];

    public function __construct(string $root, int $seed, private readonly int $rows)
    {
        $this->random = new Randomizer(new Mt19937($seed));
        $nodes = [2, 4, 8, 12][$this->random->getInt(0, 3)];
        $profile = new HardwareProfile(
            rowFactor: [200, 1000, 5000][$this->random->getInt(0, 2)],
            networkBytesPerSecond: [300_000_000, 1_200_000_000, 3_000_000_000][$this->random->getInt(0, 2)],
            chunkOpenUs: [0, 2_000, 8_000][$this->random->getInt(0, 2)],
        );
        $this->warehouse = Warehouse::create($root, 'random', $nodes, $profile);
        $this->warehouse->createSchema('field');
        $this->tables();
        $this->workload();
        // As a cluster tells it: how long the statements took.
        [, $each] = $this->measure();
        $this->statements = array_map(
            static fn (StatementUse $s, float $us): StatementUse => new StatementUse(
                $s->id,
                $s->executions,
                $us * $s->executions,
                0.0,
                $s->tables,
                $s->sql,
                $s->user,
                $s->schema,
            ),
            $this->statements,
            $each,
        );
    }

    public function destroy(): void
    {
        $this->warehouse->destroy();
    }

    /**
     * @return list<Advice>
     */
    public function advice(): array
    {
        $estate = $this->estate();
        $layout = $estate->tables[self::TABLE];
        $store = $this->warehouse->table('field', 'pick') ?? throw new RuntimeException('no table');
        $spreads = array_map(
            fn (string $column) => LayoutReader::spread($store, $column, $this->warehouse->nodes),
            (new DistributionAdvisor($estate))->columns($layout),
        );

        return (new FullAdvice($estate))->of($layout, LayoutReader::sample($store, 16_000), $spreads);
    }

    /**
     * Time of a week of the workload, which follows from what was really read and sent by each of its statements.
     *
     * @return array{float, list<float>} modelled microseconds of all, and of one run of each statement
     */
    public function measure(): array
    {
        $each = [];
        $sum = 0.0;
        foreach ($this->statements as $statement) {
            $engine = new Engine($this->warehouse, new ChunkCache(6_000_000));
            $outcome = $engine->run($statement->sql, new Session('field', 'bench', self::NOW_US), $this->limits());
            $us = (float) PlanTotals::of($outcome->plan ?? throw new RuntimeException("{$statement->sql} has no plan."))->durationUs;
            $each[] = $us;
            $sum += $us * $statement->executions;
        }

        return [$sum, $each];
    }

    /** Follows an advice for as long as something is measured. */
    public function following(Advice $advice, callable $then): mixed
    {
        $steps =
            $advice->definition === null
                ? $advice->statements
                : [
                    $advice->definition->toSql('field.pick_anew'),
                    'INSERT INTO field.pick_anew SELECT * FROM field.pick',
                    'ANALYZE TABLE field.pick_anew',
                    'RENAME TABLE field.pick TO pick_kept, field.pick_anew TO pick',
                ];
        $version = $this->warehouse->table('field', 'pick')?->manifest()->version;
        foreach ($steps as $sql) {
            $this->sql($sql);
        }
        try {
            return $then();
        } finally {
            if ($advice->definition !== null) {
                $this->sql('RENAME TABLE field.pick TO pick_anew, field.pick_kept TO pick');
                $this->sql('DROP TABLE field.pick_anew');
            } else {
                $this->sql("MAINTAIN TABLE field.pick WITH (action = revert, version = {$version})");
            }
        }
    }

    /** In a line, for whoever looks into a case. */
    public function describe(): string
    {
        $definition = $this->estate()->tables[self::TABLE]->definition;

        return "{$this->warehouse->nodes} nodes, {$definition->distribution->describe()}, ".
            ($definition->partitioning?->describe() ?? 'no partitions').
            ', '.
            $definition->clustering()->describe().
            ", {$definition->chunkRows} rows a chunk; ".
            implode(' | ', array_map(static fn (StatementUse $s): string => "{$s->executions} x {$s->sql}", $this->statements));
    }

    private function estate(): Estate
    {
        $layouts = LayoutReader::all($this->warehouse, self::NOW_US);

        return new Estate($layouts, new Workload($this->statements), LayoutReader::rates($this->warehouse->profile), self::NOW_US);
    }

    private function tables(): void
    {
        $keys = $this->random->getInt(20, 2_000);
        $skewed = $this->random->getInt(0, 1) === 1;
        $inOrder = $this->random->getInt(0, 2) > 0;
        $columns = [[], [], [], [], []];
        for ($i = 0; $i < $this->rows; $i++) {
            $share = $this->random->getInt(0, 1_000_000) / 1_000_000;
            $columns[0][] = $i;
            $columns[1][] = (int) ($keys * ($skewed ? $share ** 3 : $share));
            $columns[2][] = ['A', 'A', 'A', 'A', 'A', 'A', 'B', 'B', 'C', 'D'][$this->random->getInt(0, 9)];
            $columns[3][] =
                self::NOW_US -
                self::DAYS * 86_400_000_000 +
                (int) (self::DAYS * 86_400_000_000 * ($inOrder ? $i / $this->rows : $this->random->getInt(0, 999_999) / 1_000_000));
            $columns[4][] = $this->random->getInt(0, 9_000) / 10;
        }
        $distribution = [
            Distribution::even(),
            Distribution::hash('bay'),
            Distribution::hash('grade'),
            Distribution::hash('id'),
            Distribution::copy(),
        ][$this->random->getInt(0, 4)];
        $partitioning = [
            null,
            null,
            new Partitioning('picked_at', 'day'),
            new Partitioning('picked_at', 'week'),
            new Partitioning('picked_at', 'month'),
            new Partitioning('grade', null),
        ][$this->random->getInt(0, 5)];
        $clustering = [[], ['picked_at'], ['bay'], ['grade', 'picked_at']][$this->random->getInt(0, 3)];
        $chunkRows = [512, 2_048, 8_192][$this->random->getInt(0, 2)];
        $types = [
            'id' => TypeKind::Bigint,
            'bay' => TypeKind::Bigint,
            'grade' => TypeKind::Text,
            'picked_at' => TypeKind::Timestamp,
            'kilos' => TypeKind::Double,
        ];
        $this->write('pick', $types, $columns, $distribution, $partitioning, $clustering, $chunkRows, $this->random->getInt(1, 12));
        $this->write(
            'bay',
            ['bay' => TypeKind::Bigint, 'name' => TypeKind::Text],
            [range(0, $keys), array_map(static fn (int $i): string => 'bay '.$i % 50, range(0, $keys))],
            [Distribution::copy(), Distribution::hash('bay'), Distribution::even()][$this->random->getInt(0, 2)],
            null,
            [],
            2_048,
            1,
        );
        $prices = [[], []];
        for ($i = 0; $i < intdiv($this->rows, 5); $i++) {
            $prices[0][] = $this->random->getInt(0, $keys);
            $prices[1][] = $this->random->getInt(1, 90) / 10;
        }
        $this->write(
            'price',
            ['bay' => TypeKind::Bigint, 'price' => TypeKind::Double],
            $prices,
            [Distribution::hash('bay'), Distribution::even()][$this->random->getInt(0, 1)],
            null,
            [],
            2_048,
            1,
        );
        $this->sql('ANALYZE TABLE field.pick');
    }

    /**
     * @param  array<string, TypeKind>  $types
     * @param  list<list<int|float|string>>  $columns
     * @param  list<string>  $clustering
     */
    private function write(
        string $name,
        array $types,
        array $columns,
        Distribution $distribution,
        ?Partitioning $partitioning,
        array $clustering,
        int $chunkRows,
        int $loads,
    ): void {
        $described = array_map(
            static fn (string $column, TypeKind $kind): Column => new Column($column, ColumnType::of($kind), false),
            array_keys($types),
            $types,
        );
        $table = $this->warehouse->createTable(
            'field',
            $name,
            new TableDefinition($described, $distribution, $partitioning, $clustering, $chunkRows),
            self::NOW_US,
        );
        $size = (int) ceil(count($columns[0]) / $loads);
        for ($at = 0; $at < count($columns[0]); $at += $size) {
            $writer = new TableWriter($table, $table->manifest(), $this->warehouse->nodes);
            $writer->add(array_map(static fn (array $values): array => array_slice($values, $at, $size), $columns));
            $writer->commit(self::NOW_US);
        }
    }

    private function workload(): void
    {
        $types = [];
        foreach (LayoutReader::all($this->warehouse, self::NOW_US) as $name => $layout) {
            foreach ($layout->definition->columns as $column) {
                $types[$name][$column->name] = $column->type;
            }
        }
        $reader = new UseReader($types);
        for ($i = $this->random->getInt(2, 6); $i > 0; $i--) {
            $sql = $this->statement();
            $executions = (float) [1, 20, 300, 2_000][$this->random->getInt(0, 3)];
            $this->statements[] = new StatementUse(
                hash('xxh128', $sql),
                $executions,
                0.0,
                0.0,
                $reader->read($sql, 'field') ?? throw new RuntimeException("{$sql} cannot be read."),
                $sql,
                'bench',
                'field',
            );
        }
    }

    private function statement(): string
    {
        $from = $this->random->getInt(0, self::DAYS - 1);
        $day = static fn (int $number): string => "timestamp '".
            gmdate('Y-m-d H:i:s', intdiv(self::NOW_US, 1_000_000) - (self::DAYS - $number) * 86_400).
            "'";
        $span = "picked_at >= {$day($from)} AND picked_at < {$day($from + $this->random->getInt(1, 20))}";

        return match ($this->random->getInt(0, 7)) {
            0 => "SELECT count(*), sum(kilos) FROM pick WHERE {$span}",
            1 => "SELECT grade, count(*) FROM pick WHERE picked_at >= {$day($from)} GROUP BY grade",
            2 => 'SELECT id, kilos FROM pick WHERE bay = '.$this->random->getInt(0, 20),
            3 => "SELECT bay.name, sum(pick.kilos) FROM pick JOIN bay ON bay.bay = pick.bay WHERE pick.{$span} GROUP BY bay.name",
            4 => 'SELECT bay, sum(kilos) FROM pick GROUP BY bay',
            5 => "SELECT sum(pick.kilos * price.price) FROM pick JOIN price ON price.bay = pick.bay WHERE pick.grade = '".
                ['A', 'B', 'C', 'D'][$this->random->getInt(0, 3)].
                "'",
            6 => "SELECT max(kilos) FROM pick WHERE grade = 'C' AND {$span}",
            default => 'SELECT picked_at, kilos FROM pick WHERE id = '.$this->random->getInt(0, $this->rows - 1),
        };
    }

    private function limits(): Limits
    {
        return new Limits(120, 100_000, null, static fn (): int => (int) hrtime(true));
    }

    private function sql(string $sql): void
    {
        (new Engine($this->warehouse))->run($sql, new Session('field', 'bench', self::NOW_US), $this->limits());
    }
}

<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

use Closure;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\Distribution;
use Fulcrion\Core\Storage\Partitioning;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Practice\Sql\TableChanges;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\Manifest;
use Fulcrion\Practice\Storage\TableStore;
use Fulcrion\Practice\Storage\TableWriter;
use Fulcrion\Practice\Storage\Warehouse;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * The tables of Brackenfold Growers on a practice cluster, with the troubles that lie in data and layout.
 */
final class PracticeWorld
{
    private const DAY_US = 86_400_000_000;

    private const BAYS = 184;

    private const KINDS = ['temperature', 'humidity', 'co2', 'light', 'soil_moisture'];

    private const SITES = ['northfield', 'low-meadow', 'ridge', 'harbour'];

    /** Days ago on which snapshots of a table were written, and the time of the day. */
    public const SNAPSHOT_DAYS = [25, 18, 11, 4];

    public const SNAPSHOT_US = 4 * 3_600_000_000;

    private const BATCH = 20_000;

    private readonly Randomizer $random;

    private readonly int $startUs;

    /**
     * @param  int  $nowUs the history ends here
     * @param  float  $scale share of the rows of the scenario
     * @param  (Closure(string): void)|null  $progress told the table being built
     */
    public function __construct(
        private readonly int $nowUs,
        private readonly float $scale = 1.0,
        private readonly ?Closure $progress = null,
        int $seed = 46,
    ) {
        $this->random = new Randomizer(new Mt19937($seed));
        $this->startUs = $nowUs - ($nowUs % self::DAY_US) - (DemoHistory::DAYS - 1) * self::DAY_US;
    }

    /**
     * @param  int  $rowFactor rows of the modelled cluster each stored row stands for
     */
    public function build(string $root, string $name, int $nodes, int $rowFactor = 1000): Warehouse
    {
        // Built beside and put in place when whole, so that an interrupted start begins anew.
        $partial = "{$root}.part";
        if (is_dir($partial)) {
            Warehouse::create($partial, $name, $nodes, new HardwareProfile())->destroy();
        }
        $warehouse = Warehouse::create(
            $partial,
            $name,
            $nodes,
            new HardwareProfile(16, 10_000_000, 64_000_000_000, 2_000_000_000, 2_000_000_000, $rowFactor, 8_000),
        );
        foreach (['field', 'trade', 'energy', 'people', 'ref'] as $schema) {
            $warehouse->createSchema($schema);
        }
        $this->reference($warehouse);
        $this->people($warehouse);
        $this->trade($warehouse);
        $this->energy($warehouse);
        $this->field($warehouse);
        $this->legacy($warehouse);
        foreach (DemoPolicy::VIEWS as $name => $sql) {
            $warehouse->createView(...[...explode('.', $name), $sql]);
        }
        rename($partial, $root);

        return Warehouse::open($root);
    }

    /** What trouble 16 writes; it draws nothing, so that all other tables are as they were. */
    private function legacy(Warehouse $warehouse): void
    {
        $definition = new TableDefinition([], Distribution::hash('bay_id'), null, ['day']);
        $columns = ['bay_id' => 'bigint!', 'day' => 'timestamp!', 'litres' => 'decimal(12,2)'];
        $store = $this->table($warehouse, 'field', 'water_night', $columns, $definition, $this->rows(2_500), fn (int $i): array => [
            $i % 90 + 1,
            $this->startUs + intdiv($i, 90) % DemoHistory::DAYS * self::DAY_US,
            ($i * 7_919) % 90_000,
        ], false);
        TableChanges::collect($store, [], $this->nowUs - 30 * 3_600_000_000);
    }

    private function rows(int $full): int
    {
        return max(200, (int) round($full * $this->scale));
    }

    /** Smaller tables have smaller chunks, so that as large a part of them can be skipped. */
    private function chunkRows(int $full): int
    {
        return max(64, (int) round($full * min(1.0, $this->scale)));
    }

    /** A moment of the 28 days. */
    private function moment(): int
    {
        return $this->random->getInt($this->startUs, $this->nowUs);
    }

    /**
     * @param  array<string, string>  $columns name => type, with ! behind it where it may not be NULL
     * @return list<Column>
     */
    private static function columns(array $columns): array
    {
        $list = [];
        foreach ($columns as $name => $type) {
            $plain = rtrim($type, '!');
            $list[] = new Column(
                $name,
                match (true) {
                    preg_match('~^decimal\((\d+),(\d+)\)$~', $plain, $m) === 1 => ColumnType::decimal((int) $m[1], (int) $m[2]),
                    default => ColumnType::of(TypeKind::from($plain)),
                },
                ! str_ends_with($type, '!'),
            );
        }

        return $list;
    }

    /**
     * @param  array<string, string>  $columns
     * @param  Closure(int): list<int|float|string|bool|null>  $row gives the row of a number
     */
    private function table(
        Warehouse $warehouse,
        string $schema,
        string $name,
        array $columns,
        TableDefinition $layout,
        int $rows,
        Closure $row,
        bool $analyze = true,
    ): TableStore {
        if ($this->progress !== null) {
            ($this->progress)("{$schema}.{$name}");
        }
        $definition = new TableDefinition(
            self::columns($columns),
            $layout->distribution,
            $layout->partitioning,
            $layout->clustering,
            $this->chunkRows($layout->chunkRows),
        );
        $store = $warehouse->createTable($schema, $name, $definition, $this->startUs);
        $this->append($store, $warehouse->nodes, 0, $rows, $row);
        if ($analyze) {
            TableChanges::collect($store, [], $this->nowUs - $this->random->getInt(2, 40) * 3_600_000_000);
        }

        return $store;
    }

    /**
     * @param  Closure(int): list<int|float|string|bool|null>  $row
     * @param  int  $cutEvery rows after which a chunk is written, full or not; 0 for never
     */
    private function append(TableStore $store, int $nodes, int $from, int $to, Closure $row, int $cutEvery = 0): void
    {
        $base = $store->manifest();
        $writer = new TableWriter($store, $base, $nodes);
        $width = count($base->definition->columns);
        $size = $cutEvery > 0 ? $cutEvery : self::BATCH;
        for ($at = $from; $at < $to; $at += $size) {
            $values = array_fill(0, $width, []);
            for ($i = $at; $i < min($to, $at + $size); $i++) {
                foreach ($row($i) as $column => $value) {
                    $values[$column][] = $value;
                }
            }
            $writer->add($values);
            if ($cutEvery > 0) {
                $writer->cut();
            }
        }
        $writer->commit($this->nowUs);
    }

    private function reference(Warehouse $warehouse): void
    {
        $copy = new TableDefinition([], Distribution::copy());
        $first = intdiv($this->nowUs, self::DAY_US) - 3600;
        // Trouble 8: four thousand rows in 216 partitions.
        $this->table(
            $warehouse,
            'ref',
            'calendar_day',
            ['day' => 'date!', 'week' => 'bigint!', 'year' => 'bigint!', 'season' => 'text!', 'accounting_span' => 'bigint!'],
            new TableDefinition([], Distribution::copy(), new Partitioning('accounting_span', null)),
            4000,
            static fn (int $i): array => [
                $first + $i,
                (int) gmdate('W', ($first + $i) * 86400),
                (int) gmdate('o', ($first + $i) * 86400),
                ['winter', 'spring', 'summer', 'autumn'][intdiv((int) gmdate('n', ($first + $i) * 86400) % 12, 3)],
                intdiv($i * 216, 4000),
            ],
        );
        $this->table(
            $warehouse,
            'ref',
            'glasshouse',
            ['glasshouse_id' => 'bigint!', 'name' => 'text!', 'region' => 'text!', 'site' => 'text!', 'area_m2' => 'decimal(10,2)'],
            $copy,
            46,
            fn (int $i): array => [
                $i + 1,
                sprintf('Glasshouse %02d', $i + 1),
                ['north', 'east', 'south', 'west'][$i % 4],
                self::SITES[$i % 4],
                $this->random->getInt(80_000, 900_000),
            ],
        );
        $this->table(
            $warehouse,
            'ref',
            'bay',
            ['bay_id' => 'bigint!', 'name' => 'text!', 'glasshouse_id' => 'bigint!', 'variety_id' => 'bigint', 'area_m2' => 'decimal(8,2)'],
            $copy,
            self::BAYS,
            fn (int $i): array => [
                $i + 1,
                sprintf('Bay %02d-%d', ($i % 46) + 1, intdiv($i, 46) + 1),
                ($i % 46) + 1,
                $this->random->getInt(1, 18),
                $this->random->getInt(2_000, 40_000),
            ],
        );
        $this->table(
            $warehouse,
            'ref',
            'variety',
            ['variety_id' => 'bigint!', 'name' => 'text!', 'family' => 'text!', 'unit' => 'text!'],
            $copy,
            18,
            static fn (int $i): array => [
                $i + 1,
                ['Ember', 'Larkspur', 'Basil Tall', 'Mint Field', 'Long Red', 'Marigold'][$i % 6].' '.(intdiv($i, 6) + 1),
                ['pepper', 'flower', 'herb'][$i % 3],
                $i % 3 === 1 ? 'stem' : 'kg',
            ],
        );
        $this->table(
            $warehouse,
            'ref',
            'region_tree',
            [
                'node_id' => 'bigint!',
                'parent_id' => 'bigint',
                'level' => 'text!',
                'name' => 'text!',
                'glasshouse_id' => 'bigint',
                'valid_from' => 'date!',
            ],
            $copy,
            63,
            static fn (int $i): array => [
                $i,
                $i === 0 ? null : ($i < 5 ? 0 : ($i < 17 ? 1 + (($i - 5) % 4) : 5 + (($i - 17) % 12))),
                $i === 0 ? 'cooperative' : ($i < 5 ? 'region' : ($i < 17 ? 'district' : 'site')),
                self::area($i),
                $i < 17 ? null : $i - 16,
                $first + ($i % 5) * 365,
            ],
        );
    }

    /** Four regions of three districts each; the sites are the glasshouses. */
    private static function area(int $i): string
    {
        $regions = ['north', 'east', 'south', 'west'];

        return match (true) {
            $i === 0 => 'Brackenfold',
            $i < 5 => $regions[max(0, $i - 1)],
            $i < 17 => $regions[abs($i - 5) % 4].' district '.(intdiv($i - 5, 4) + 1),
            default => sprintf('Glasshouse %02d', $i - 16),
        };
    }

    private function people(Warehouse $warehouse): void
    {
        $byId = static fn (string $id): TableDefinition => new TableDefinition([], Distribution::hash($id));
        $name = fn (): string => ['Ada', 'Bren', 'Cole', 'Dara', 'Elin', 'Finn', 'Gwen', 'Hale', 'Ines', 'Jory'][
            $this->random->getInt(0, 9)
        ].
            ' '.
            ['Ashwell', 'Brook', 'Carden', 'Dunmore', 'Elder', 'Farrow', 'Greave', 'Holm'][$this->random->getInt(0, 7)];
        $digits = fn (int $count): string => implode('', array_map(fn (): int => $this->random->getInt(0, 9), range(1, $count)));
        $this->table(
            $warehouse,
            'people',
            'grower',
            [
                'grower_id' => 'bigint!',
                'name' => 'text!',
                'region' => 'text!',
                'joined_on' => 'date!',
                'letter_language' => 'text',
                'contact_person' => 'text',
                'phone' => 'text',
                'email' => 'text',
                'national_id' => 'text',
                'bank_account' => 'text',
            ],
            $byId('grower_id'),
            1200,
            fn (int $i): array => [
                $i + 1,
                $name(),
                ['north', 'east', 'south', 'west'][$i % 4],
                intdiv($this->nowUs, self::DAY_US) - $this->random->getInt(30, 5000),
                ['en', 'cy', 'fr'][$this->random->getInt(0, 2)],
                $name(),
                '555-'.$digits(7),
                "grower{$i}@brackenfold.example",
                $digits(9),
                $digits(16),
            ],
        );
        $this->table(
            $warehouse,
            'people',
            'crew_member',
            [
                'crew_member_id' => 'bigint!',
                'name' => 'text!',
                'phone' => 'text',
                'email' => 'text',
                'national_id' => 'text',
                'bank_account' => 'text',
                'wage' => 'decimal(8,2)',
            ],
            $byId('crew_member_id'),
            640,
            fn (int $i): array => [
                $i + 1,
                $name(),
                $i % 7 === 0 ? null : '555-'.$digits(7),
                "crew{$i}@brackenfold.example",
                $digits(9),
                $digits(16),
                $this->random->getInt(1400, 2600),
            ],
        );
    }

    private function trade(Warehouse $warehouse): void
    {
        $this->table(
            $warehouse,
            'trade',
            'buyer',
            ['buyer_id' => 'bigint!', 'name' => 'text!', 'town' => 'text!', 'segment' => 'text!'],
            new TableDefinition([], Distribution::hash('buyer_id')),
            320,
            fn (int $i): array => [
                $i + 1,
                "Buyer {$i}",
                ['Alderby', 'Brinmouth', 'Corrow', 'Dellstead'][$this->random->getInt(0, 3)],
                ['market', 'kitchen', 'florist'][$i % 3],
            ],
        );
        // Trouble 7: no statistics were ever collected.
        $this->table(
            $warehouse,
            'trade',
            'price_offer',
            [
                'offer_id' => 'bigint!',
                'grower_id' => 'bigint!',
                'buyer_id' => 'bigint!',
                'variety_id' => 'bigint!',
                'offered_at' => 'timestamp!',
                'price' => 'decimal(8,2)',
            ],
            new TableDefinition([], Distribution::hash('grower_id'), null, ['offered_at']),
            $this->rows(60_000),
            fn (int $i): array => [
                $i + 1,
                $this->random->getInt(1, 1200),
                $this->random->getInt(1, 320),
                $this->random->getInt(1, 18),
                $this->moment(),
                $this->random->getInt(80, 900),
            ],
            false,
        );
        // Trouble 6: large, and copied to every node. Its statistics are 19 days old: two thirds of the rows came later.
        $rows = $this->rows(150_000);
        $known = intdiv($rows * 9, 28);
        $row = fn (int $i): array => [
            $i + 1,
            $this->random->getInt(1, 320),
            $this->random->getInt(1, 1200),
            $this->random->getInt(1, self::BAYS),
            $this->random->getInt(1, 46),
            $this->random->getInt(1, 18),
            $this->random->getInt(1, 640),
            ['A', 'A', 'B', 'C'][$this->random->getInt(0, 3)],
            [5, 10, 20][$this->random->getInt(0, 2)],
            ['packed', 'left', 'arrived', 'claimed'][$this->random->getInt(0, 3)],
            $this->random->getInt(12_000, 60_000),
            $this->startUs + (int) (($this->nowUs - $this->startUs) * ($i / $rows)),
        ];
        $store = $this->table(
            $warehouse,
            'trade',
            'pallet_shipment',
            [
                'pallet_id' => 'bigint!',
                'buyer_id' => 'bigint!',
                'grower_id' => 'bigint!',
                'bay_id' => 'bigint!',
                'glasshouse_id' => 'bigint!',
                'variety_id' => 'bigint!',
                'crew_member_id' => 'bigint',
                'grade' => 'text',
                'crate_size' => 'bigint',
                'state' => 'text!',
                'kilos' => 'decimal(8,2)',
                'left_at' => 'timestamp!',
            ],
            new TableDefinition([], Distribution::copy(), null, ['left_at'], 8192),
            $known,
            $row,
            false,
        );
        TableChanges::collect($store, [], $this->nowUs - 19 * self::DAY_US);
        $this->append($store, $warehouse->nodes, $known, $rows, $row);
        $this->snapshots($store);
    }

    /** Trouble 19: written anew each week, and no version of before ever goes. */
    private function snapshots(TableStore $store): void
    {
        $store->expire($this->nowUs + 1);
        $base = $store->manifest();
        $today = $this->nowUs - $this->nowUs % self::DAY_US;
        $chunks = $base->chunks;
        foreach ([...array_map(static fn (int $days): int => $today - $days * self::DAY_US + self::SNAPSHOT_US, self::SNAPSHOT_DAYS),
            $this->nowUs] as $place => $writtenUs) {
            $version = $base->version + 1 + $place;
            if ($place > 0) {
                $chunks = array_map(static function (Chunk $chunk, int $number) use ($store, $version): Chunk {
                    $file = "c{$version}-{$number}.parquet";
                    copy($store->file($chunk), dirname($store->file($chunk))."/{$file}");

                    return new Chunk($file, $chunk->node, $chunk->partition, $chunk->rows, $chunk->bytes, $chunk->zones);
                }, $chunks, array_keys($chunks));
            }
            $store->publish(new Manifest($version, $writtenUs, $base->definition, $chunks, $base->rowsChanged));
        }
        $store->keepVersions();
    }

    private function energy(Warehouse $warehouse): void
    {
        $today = intdiv($this->nowUs, self::DAY_US);
        $this->table(
            $warehouse,
            'energy',
            'tariff',
            ['tariff_id' => 'bigint!', 'valid_from' => 'date!', 'valid_to' => 'date!', 'price' => 'decimal(8,4)'],
            new TableDefinition([], Distribution::copy()),
            24,
            fn (int $i): array => [
                ($i % 6) + 1,
                $today - 200 + intdiv($i, 6) * 60,
                $today - 140 + intdiv($i, 6) * 60,
                $this->random->getInt(900, 3200),
            ],
        );
        $rows = $this->rows(300_000);
        $this->table(
            $warehouse,
            'energy',
            'meter_reading',
            [
                'meter_id' => 'bigint!',
                'site' => 'text!',
                'medium' => 'text!',
                'tariff_id' => 'bigint!',
                'metered_at' => 'timestamp!',
                'kwh' => 'decimal(10,3)',
            ],
            new TableDefinition([], Distribution::hash('meter_id'), new Partitioning('metered_at', 'day'), ['metered_at'], 4096),
            $rows,
            fn (int $i): array => [
                ($meter = $this->random->getInt(1, 460)),
                self::SITES[$meter % 4],
                ['heat', 'light', 'pump', 'cool', 'co2'][$meter % 5],
                ($meter % 6) + 1,
                $this->startUs + (int) (($this->nowUs - $this->startUs) * ($i / $rows)),
                $this->random->getInt(10, 90_000),
            ],
        );
    }

    private function field(Warehouse $warehouse): void
    {
        $rows = $this->rows(120_000);
        $this->table(
            $warehouse,
            'field',
            'irrigation_event',
            [
                'bay_id' => 'bigint!',
                'valve_id' => 'bigint!',
                'recipe_id' => 'bigint',
                'started_at' => 'timestamp!',
                'minutes' => 'bigint',
                'litres' => 'decimal(8,2)',
                'pressure' => 'double',
                'drain_share' => 'double',
            ],
            new TableDefinition([], Distribution::hash('bay_id'), null, ['started_at'], 4096),
            $rows,
            fn (int $i): array => [
                ($bay = $this->random->getInt(1, self::BAYS)),
                $bay * 3 + $this->random->getInt(0, 2),
                $this->random->getInt(1, 12),
                $this->startUs + (int) (($this->nowUs - $this->startUs) * ($i / $rows)),
                $this->random->getInt(2, 25),
                $this->random->getInt(500, 40_000),
                $this->random->getInt(12, 40) / 10,
                $this->random->getInt(0, 100) / 250,
            ],
        );
        $this->table(
            $warehouse,
            'field',
            'pick_summary',
            [
                'bay_id' => 'bigint!',
                'variety_id' => 'bigint!',
                'crew_member_id' => 'bigint',
                'day' => 'timestamp!',
                'kilos' => 'decimal(12,2)',
                'picks' => 'bigint',
            ],
            new TableDefinition([], Distribution::hash('bay_id'), null, ['day']),
            $this->rows(30_000),
            fn (int $i): array => [
                $this->random->getInt(1, self::BAYS),
                $this->random->getInt(1, 18),
                $this->random->getInt(1, 640),
                intdiv($this->moment(), self::DAY_US) * self::DAY_US,
                $this->random->getInt(1000, 90_000),
                $this->random->getInt(1, 30),
            ],
        );
        // Trouble 3: distributed by a column of three values, one of which most rows have.
        $picks = $this->rows(400_000);
        $this->table(
            $warehouse,
            'field',
            'harvest_pick',
            [
                'bay_id' => 'bigint!',
                'variety_id' => 'bigint!',
                'crew_member_id' => 'bigint',
                'glasshouse_id' => 'bigint!',
                'grade' => 'text!',
                'crate_size' => 'bigint',
                'kilos' => 'decimal(8,2)',
                'picked_at' => 'timestamp!',
            ],
            new TableDefinition([], Distribution::hash('grade'), null, ['picked_at'], 2048),
            $picks,
            function (int $i) use ($picks): array {
                $bay = $this->random->getInt(1, self::BAYS);
                $luck = $this->random->getInt(1, 100);

                return [
                    $bay,
                    ($bay % 18) + 1,
                    $this->random->getInt(1, 640),
                    (($bay - 1) % 46) + 1,
                    $luck <= 70 ? 'A' : ($luck <= 88 ? 'B' : 'C'),
                    [5, 10, 20][$this->random->getInt(0, 2)],
                    $luck === 50 ? null : $this->random->getInt(120, 2400),
                    $this->startUs + (int) (($this->nowUs - $this->startUs) * ($i / $picks)),
                ];
            },
        );
        // Trouble 4: thousands of tiny chunks whose times overlap, as late batches leave them.
        $rows = $this->rows(1_200_000);
        if ($this->progress !== null) {
            ($this->progress)('field.climate_reading');
        }
        $store = $warehouse->createTable(
            'field',
            'climate_reading',
            new TableDefinition(
                self::columns(['bay_id' => 'bigint!', 'sensor_kind' => 'text!', 'read_at' => 'timestamp!', 'value' => 'double']),
                Distribution::even(),
                new Partitioning('read_at', 'month'),
                [],
                $this->chunkRows(TableDefinition::CHUNK_ROWS),
            ),
            $this->startUs,
        );
        $this->append(
            $store,
            $warehouse->nodes,
            0,
            $rows,
            fn (int $i): array => [
                $this->random->getInt(1, self::BAYS),
                self::KINDS[($kind = $this->random->getInt(0, 4))],
                max(
                    $this->startUs,
                    $this->startUs + (int) (($this->nowUs - $this->startUs) * ($i / $rows)) - $this->random->getInt(0, 3 * self::DAY_US),
                ),
                $this->random->getInt(1, 400) === 1 ? null : $this->random->getInt(0, 1000) / [40, 10, 1, 2, 20][$kind],
            ],
            max(40, (int) round(300 * min(1.0, $this->scale * 4))),
        );
        TableChanges::collect($store, [], $this->nowUs - 5 * 3_600_000_000);
    }
}

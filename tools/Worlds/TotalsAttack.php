<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Worlds;

use Fulcrion\Core\Access\Catalog\AccessCatalog;
use Fulcrion\Core\Access\Catalog\TableEntry;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Decide\StatementDecider;
use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Practice\Engine;
use Fulcrion\Practice\Physical\Limits;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\Warehouse;
use LogicException;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Somebody who may see a dimension in totals only asks for less than totals. What is allowed must be the sums over groups
 * of enough rows, added up here by plain loops; what picks rows out must be refused.
 */
final class TotalsAttack
{
    /** What can be added up, and whether it shows more than a total. */
    private const MEASURES = [
        ['count(*)', false],
        ['sum(x.kilos)', false],
        ['sum(x.kilos * x.price)', false],
        ['count(DISTINCT x.bay)', false],
        ['sum(x.kilos + 1)', false],
        ['max(x.kilos)', true],
        ['min(x.price)', true],
        ['sum(CASE WHEN x.id = 3 THEN x.kilos END)', true],
        ['sum(x.kilos) FILTER (WHERE x.id = 3)', true],
        ['sum(x.kilos * (SELECT 1))', true],
        ['sum(coalesce(x.kilos, 0))', true],
        ['sum(x.kilos) OVER ()', true],
    ];

    private const GROUPS = [[null, false], ['x.bay', false], ['x.bay + 1', false], ['x.id', true], ['x.id % 7', true], ['x.region', true]];

    private const CONDITIONS = [
        [null, false],
        ['x.bay = 2', false],
        ['x.kilos > 30', false],
        ['x.bay IN (1, 3) AND x.price < 8', false],
        ['x.id = 4', true],
        ['x.id IN (1, 2, 3, 4, 5, 6)', true],
        ["x.region = 'north'", true],
        ['NOT (x.id > 9)', true],
        ['x.kilos > 60 OR x.id = 2', true],
    ];

    public int $statements = 0;

    public int $allowed = 0;

    /** @var list<string> */
    public array $leaks = [];

    /** @var list<string> */
    public array $withheld = [];

    private readonly Engine $engine;

    /** @var list<array{id: int, region: string, bay: int, kilos: int, price: int}> */
    private array $rows = [];

    public function __construct(string $directory)
    {
        $this->engine = new Engine(Warehouse::create("{$directory}/totals", 'Totals', 2, new HardwareProfile()));
        $this->engine->warehouse->createSchema('s');
        $random = new Randomizer(new Mt19937(5));
        for ($id = 1; $id <= 40; $id++) {
            $this->rows[] = [
                'id' => $id,
                'region' => ['north', 'south', 'fen'][$random->getInt(0, 2)],
                'bay' => min(6, intdiv($random->getInt(1, 40), 6) + 1),
                'kilos' => $random->getInt(1, 90),
                'price' => $random->getInt(1, 12),
            ];
        }
        $this->run('CREATE TABLE sale (id bigint, region text, bay bigint, kilos bigint, price bigint)');
        $this->run(
            'INSERT INTO sale VALUES '.
                implode(
                    ', ',
                    array_map(
                        static fn (array $r): string => "({$r['id']}, '{$r['region']}', {$r['bay']}, {$r['kilos']}, {$r['price']})",
                        $this->rows,
                    ),
                ),
        );
        // Each bay three times, so that a join makes many rows of one.
        $this->run('CREATE TABLE site (bay bigint, n bigint)');
        $this->run(
            'INSERT INTO site VALUES '.
                implode(', ', array_map(static fn (int $i): string => '('.(($i % 6) + 1).", {$i})", range(0, 17))),
        );
    }

    public function attack(int $statements, int $seed): void
    {
        $random = new Randomizer(new Mt19937($seed));
        $of = static fn (array $list): mixed => $list[$random->getInt(0, count($list) - 1)];
        for ($i = 0; $i < $statements; $i++) {
            $this->statements++;
            $smallest = $of([1, 2, 3, 5, 8]);
            [$measure, $showsMeasure] = $of(self::MEASURES);
            [$group, $showsGroup] = $of(self::GROUPS);
            [$where, $showsWhere] = $of(self::CONDITIONS);
            $joined = $random->getInt(1, 100) <= 30;
            $named = $random->getInt(1, 100) <= 25;
            $plain = $random->getInt(1, 100) <= 8;
            $from =
                's.sale AS x'.
                ($named ? ' (c1, c2, c3, c4, c5)' : '').
                ($joined ? ' JOIN s.site AS y ON y.bay = x.'.($named ? 'c3' : 'bay') : '');
            $items = $plain ? $group ?? 'x.kilos' : ($group === null ? '' : "{$group} AS g, ")."{$measure} AS m";
            $sql =
                "SELECT {$items} FROM {$from}".($where === null ? '' : " WHERE {$where}").($group === null ? '' : " GROUP BY {$group}");
            if ($named) {
                $sql = strtr($sql, ['x.id' => 'x.c1', 'x.region' => 'x.c2', 'x.bay' => 'x.c3', 'x.kilos' => 'x.c4', 'x.price' => 'x.c5']);
            }
            $decision = (new StatementDecider(($policy = $this->policy($smallest)), $policy->reader('person:eve'), 'home'))->decide($sql);
            $where = "smallest {$smallest}: {$sql}";
            $more = $plain || in_array(true, [$showsGroup, $showsWhere, $showsMeasure], true);
            if (! $decision->isAllowed()) {
                if (! $more) {
                    $this->withheld[] = "{$where} was refused: {$decision->sentence()}";
                }
            } elseif ($more) {
                $this->leaks[] = "{$where} was allowed as {$decision->rewritten}";
            } else {
                $this->allowed++;
                $this->compare($where, (string) $decision->rewritten, $measure, $group, $sql, $joined, $smallest);
            }
        }
    }

    private function compare(
        string $where,
        string $rewritten,
        string $measure,
        ?string $group,
        string $sql,
        bool $joined,
        int $smallest,
    ): void {
        $groups = [];
        foreach ($this->rows as $row) {
            $holds = match (true) {
                str_contains($sql, 'IN (1, 3)') => in_array($row['bay'], [1, 3], true) && $row['price'] < 8,
                str_contains($sql, ' = 2') => $row['bay'] === 2,
                str_contains($sql, '> 30') => $row['kilos'] > 30,
                default => true,
            };
            if ($holds) {
                $groups[$group === null ? 'all' : ($group === 'x.bay' ? $row['bay'] : $row['bay'] + 1)][] = $row;
            }
        }
        $times = $joined ? 3 : 1;
        $due = [];
        foreach ($group === null && $groups === [] ? ['all' => []] : $groups as $key => $rows) {
            if (count($rows) < $smallest && $smallest > 1) {
                continue;
            }
            $sum = static fn (callable $value): ?int => $rows === [] ? null : $times * (int) array_sum(array_map($value, $rows));
            $value = match ($measure) {
                'count(*)' => $times * count($rows),
                'sum(x.kilos)' => $sum(static fn (array $r): int => $r['kilos']),
                'sum(x.kilos + 1)' => $sum(static fn (array $r): int => $r['kilos'] + 1),
                'count(DISTINCT x.bay)' => count(array_unique(array_column($rows, 'bay'))),
                default => $sum(static fn (array $r): int => $r['kilos'] * $r['price']),
            };
            $due[] = json_encode($group === null ? [$value] : [$key, $value]);
        }
        $given = array_map(static fn (array $row): string => (string) json_encode($row), $this->run($rewritten)->rows);
        sort($given);
        sort($due);
        if ($given !== $due) {
            $this->leaks[] = "{$where} gave ".implode(' ', $given).' instead of '.implode(' ', $due)." by {$rewritten}";
        }
    }

    private function policy(int $smallest): Policy
    {
        $document = Document::read([
            'people' => ['eve' => ['roles' => ['crew']]],
            'roles' => ['crew' => [], 'keeper' => []],
            'owners' => ['estate' => ['owner' => 'role:keeper']],
            'grants' => ['all' => ['effect' => 'allow', 'privileges' => ['use', 'select'], 'on' => 'estate', 'to' => ['role:crew']]],
            'dimensions' => ['region' => ['columns' => ['home.s.sale.region' => '']]],
            'scopes' => [
                'sums' => ['dimension' => 'region', 'for' => ['role:crew'], 'everything' => true, 'level' => 'totals', 'mode' => 'refuse'],
            ],
            'settings' => ['smallest group' => ['value' => (string) $smallest]],
        ]);
        $whole = ColumnType::of(TypeKind::Bigint);

        return new Policy(
            $document instanceof Document ? $document : throw new LogicException(implode(' ', array_map(strval(...), $document))),
            new AccessCatalog([
                new TableEntry(
                    'home.s.sale',
                    ['id' => $whole, 'region' => ColumnType::of(TypeKind::Text), 'bay' => $whole, 'kilos' => $whole, 'price' => $whole],
                    null,
                    [],
                    ['id'],
                ),
                new TableEntry('home.s.site', ['bay' => $whole, 'n' => $whole]),
            ]),
            [],
            '2026-11-23',
        );
    }

    private function run(string $sql): \Fulcrion\Practice\Outcome
    {
        return $this->engine->run(
            $sql,
            new Session('s', 'attack', 1, true),
            new Limits(20, 5000, null, static fn (): int => (int) hrtime(true)),
        );
    }
}

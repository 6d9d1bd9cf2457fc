<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Worlds;

use Fulcrion\Core\Access\Catalog\Hierarchy;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Decide\StatementDecider;
use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Plans\PlanVeil;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Practice\Engine;
use Fulcrion\Practice\Outcome;
use Fulcrion\Practice\Physical\Limits;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\TableCopy;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Practice\WarehouseError;
use LogicException;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Tables derived from closed ones in every way there is, then asked for what must not be seen. Every value of the closed
 * table is unlike any other, so whatever shows up in an answer, an error or a plan is known.
 */
final class DerivedAttack
{
    private const ROWS = 12;

    private const ASKED = 25;

    public int $worlds = 0;

    public int $statements = 0;

    public int $answered = 0;

    /** @var list<string> */
    public array $leaks = [];

    private Randomizer $random;

    private int $next = 0;

    /** @var list<array{id: int, name: string, phone: string, wage: int, region: string}> */
    private array $rows = [];

    /** @var array<string, mixed> */
    private array $data = [];

    public function __construct(private readonly string $directory)
    {
        $this->random = new Randomizer(new Mt19937(1));
    }

    public function attack(int $worlds, int $seed): void
    {
        for ($i = 0; $i < $worlds; $i++) {
            $this->random = new Randomizer(new Mt19937($seed + $i));
            $this->worlds++;
            $this->next = 0;
            $home = Warehouse::create("{$this->directory}/home", 'Home', 2, new HardwareProfile());
            $away = Warehouse::create("{$this->directory}/away", 'Away', 2, new HardwareProfile());
            $this->fill(new Engine($home));
            $away->createSchema('open');
            $away->createSchema('rehearsal_7');
            $this->policy();
            $this->derive($home, $away, 'world '.($seed + $i));
            $this->ask(['home' => $home, 'away' => $away], 'world '.($seed + $i));
            $home->destroy();
            $away->destroy();
        }
    }

    private function fill(Engine $engine): void
    {
        foreach (['people', 'open'] as $schema) {
            $engine->warehouse->createSchema($schema);
        }
        $this->rows = [];
        for ($id = 1; $id <= self::ROWS; $id++) {
            $this->rows[] = [
                'id' => $id,
                'name' => 'nm'.$this->token(),
                'phone' => 'ph'.$this->token(),
                'wage' => 700_000 + $this->random->getInt(0, 9_999) * 20 + $id,
                'region' => $id % 2 === 0 ? 'north' : 'south',
            ];
        }
        $this->run($engine, 'people', 'CREATE TABLE crew (id bigint, name text, phone text, wage bigint, region text)');
        $lines = array_map(
            static fn (array $row): string => "({$row['id']}, '{$row['name']}', '{$row['phone']}', {$row['wage']}, '{$row['region']}')",
            $this->rows,
        );
        $this->run($engine, 'people', 'INSERT INTO crew VALUES '.implode(', ', $lines));
        $this->run($engine, 'open', 'CREATE TABLE day (id bigint, note text)');
        $this->run($engine, 'open', "INSERT INTO day VALUES (1, 'mon'), (2, 'tue'), (3, 'wed')");
    }

    /** Letters only, so that no number of a plan looks like one. */
    private function token(): string
    {
        $token = '';
        for ($i = 0; $i < 10; $i++) {
            $token .= chr(97 + $this->random->getInt(0, 25));
        }

        return $token;
    }

    private function policy(): void
    {
        $effect = fn (): array => $this->of([
            ['effect' => 'hide'],
            ['effect' => 'deny'],
            ['effect' => 'mask', 'mask' => 'gone'],
            ['effect' => 'mask', 'mask' => 'last1'],
        ]);
        $rules = [];
        foreach (['name', 'phone', 'wage'] as $column) {
            if ($this->chance($column === 'name' ? 40 : 85)) {
                $rules["of {$column}"] =
                    ['scope' => 'estate', 'for' => ['everyone'], 'except' => ['role:keeper'], 'when' => "labelled('{$column}')"] +
                    $effect();
            }
        }
        if ($this->chance(40)) {
            $rules['rows'] = [
                'scope' => 'home.people.crew',
                'for' => ['everyone'],
                'except' => ['role:keeper'],
                'effect' => 'filter',
                'filter' => "region = person('region')",
            ];
        }
        $this->data = [
            'people' => ['eve' => ['roles' => ['crew'], 'attributes' => ['region' => 'north']], 'kim' => ['roles' => ['keeper']]],
            'roles' => ['crew' => [], 'keeper' => []],
            'owners' => ['estate' => ['owner' => 'role:keeper']],
            'grants' => [
                'all' => [
                    'effect' => 'allow',
                    'privileges' => ['use', 'select', ...$this->chance(30) ? ['create', 'alter', 'insert'] : []],
                    'on' => 'estate',
                    'to' => ['role:crew'],
                ],
                ...$this->chance(15)
                    ? ['not' => ['effect' => 'deny', 'privileges' => ['select'], 'on' => 'home.people.crew', 'to' => ['role:crew']]]
                    : [],
            ],
            'labels' => array_combine(
                ['n', 'p', 'w'],
                array_map(static fn (string $c): array => ['on' => "home.people.crew.{$c}", 'key' => $c, 'value' => 'yes'], [
                    'name',
                    'phone',
                    'wage',
                ]),
            ),
            'masks' => ['gone' => ['shows' => 'nothing'], 'last1' => ['shows' => 'last characters', 'count' => 1]],
            'rules' => $rules,
        ];
        if ($this->chance(30)) {
            $this->data['dimensions'] = ['region' => ['columns' => ['home.people.crew.region' => '']]];
            $this->data['scopes'] = [
                'keepers' => [
                    'dimension' => 'region',
                    'for' => ['role:keeper'],
                    'everything' => true,
                    'level' => 'detail',
                    'mode' => 'trim',
                ],
                'north' => [
                    'dimension' => 'region',
                    'for' => ['role:crew'],
                    'values' => ['north'],
                    'level' => 'detail',
                    'mode' => $this->of(['trim', 'refuse']),
                ],
            ];
        }
    }

    /** What somebody who sees everything makes of the closed table; statements that cannot be run are left out. */
    private function derive(Warehouse $home, Warehouse $away, string $where): void
    {
        $engine = new Engine($home);
        for ($i = $this->random->getInt(3, 8); $i > 0; $i--) {
            $table = $this->of($this->tables($home));
            $new = 'open.t'.++$this->next;
            $columns = array_map(
                static fn ($column): string => $column->name,
                $home->table(...explode('.', $table, 2))?->manifest()->definition->columns ?? [],
            );
            $some = $this->expressions($columns);
            $sql = $this->of([
                "CREATE TABLE {$new} AS SELECT {$some} FROM {$table} AS x",
                "CREATE TABLE {$new} AS SELECT {$some} FROM {$table} AS x WHERE {$this->condition($columns)}",
                "CREATE TABLE {$new} AS SELECT x.*, d.note FROM {$table} AS x JOIN open.day AS d ON d.id = 1",
                "CREATE TABLE {$new} AS SELECT count(*) AS c1, max(x.{$this->of($columns)}) AS c2 FROM {$table} AS x",
                "CREATE TABLE {$new} AS WITH q (a) AS (SELECT {$this->of(
                    $columns,
                )} FROM {$table}) SELECT a, upper(CAST(a AS text)) AS c1 FROM q",
                "CREATE TABLE {$new} AS SELECT d.note, (SELECT max(x.{$this->of($columns)}) FROM {$table} AS x) AS c1 FROM open.day AS d",
                "CREATE VIEW {$new} AS SELECT {$some} FROM {$table} AS x",
                "CREATE OR REPLACE TABLE open.day AS SELECT id, CAST({$this->of($columns)} AS text) AS note FROM {$table}",
                "INSERT INTO open.day SELECT 9, CAST({$this->of($columns)} AS text) FROM {$table}",
                "UPDATE {$table} SET {$this->of($columns)} = {$this->of($columns)}",
                'RENAME TABLE '.$table.' TO r'.++$this->next,
                "CREATE TABLE {$table}__new_1 AS SELECT * FROM {$table}",
                'copy',
                'unqualified',
                "CREATE TABLE {$new} AS SELECT x.*, max(CAST(x.{$this->of($columns)} AS text)) OVER () AS c1 FROM {$table} AS x",
                "INSERT INTO open.day SELECT 7, concat('north', '') FROM {$table}",
                "CREATE TABLE {$new} AS SELECT x.*, y.{$this->of($columns)} AS c1 FROM {$table} AS x JOIN {$table} AS y ON x.{$this->of(
                    $columns,
                )} <> y.{$this->of($columns)}",
                "CREATE TABLE {$new} AS SELECT x.*, y.name AS c1 FROM {$table} AS x, people.crew AS y",
                "CREATE TABLE {$new} AS SELECT {$this->of($columns)}, max({$this->of($columns)}) AS c1 FROM {$table} GROUP BY 1",
                // Of a derived table only: in the closed one itself it would change what is so.
                str_starts_with($table, 'open.') ? "UPDATE {$table} SET {$this->of($columns)} = 'north'" : 'copy',
                str_starts_with($table, 'open.')
                    ? "INSERT INTO {$table} SELECT ".
                        implode(', ', array_map(fn (string $c): string => $this->of([$c, $this->of($columns), "'north'"]), $columns)).
                        " FROM {$table}"
                    : 'unqualified',
            ]);
            try {
                if ($sql === 'copy') {
                    (new TableCopy($away))->copy(
                        $home->table(...explode('.', $table, 2)) ?? throw new LogicException($table),
                        $home,
                        [$this->of(['open', 'rehearsal_7']), 'k'.++$this->next],
                        1.0,
                        1,
                        static function (): void {
                        },
                    );
                } elseif ($sql === 'unqualified') {
                    [$schema, $name] = explode('.', $table, 2);
                    $this->run($engine, $schema, "CREATE VIEW {$new} AS SELECT {$some} FROM {$name} AS x");
                } else {
                    $this->run($engine, 'people', $sql);
                }
                if (str_contains($sql, '__new_1')) {
                    $name = explode('.', $table, 2)[1];
                    $this->run($engine, 'people', "RENAME TABLE {$table} TO {$name}__kept_1, {$table}__new_1 TO {$name}");
                }
            } catch (WarehouseError|SyntaxError) {
                continue;
            }
        }
        if ($this->tables($home) === []) {
            throw new LogicException("{$where} lost its tables.");
        }
    }

    /**
     * @return list<string> schema.table, kept ones not among them
     */
    private function tables(Warehouse $warehouse): array
    {
        $found = [];
        foreach ($warehouse->schemas() as $schema) {
            foreach ($warehouse->tables($schema) as $name) {
                if (! str_contains($name, '__')) {
                    $found[] = "{$schema}.{$name}";
                }
            }
        }

        return $found;
    }

    /**
     * @param  list<string>  $columns
     */
    private function expressions(array $columns): string
    {
        $items = [];
        foreach ($columns as $column) {
            if ($this->chance(70)) {
                $items[] = $this->of([
                    "x.{$column}",
                    "x.{$column} AS c".++$this->next,
                    "upper(CAST(x.{$column} AS text)) AS c".++$this->next,
                    "concat('<', CAST(x.{$column} AS text), '>') AS c".++$this->next,
                    "coalesce(CAST(x.{$column} AS text), CAST(x.{$this->of($columns)} AS text)) AS c".++$this->next,
                    "CASE WHEN CAST(x.{$column} AS text) > 'a' THEN CAST(x.{$this->of($columns)} AS text) END AS c".++$this->next,
                ]);
            }
        }

        return $items === [] ? 'x.*' : implode(', ', $items);
    }

    /**
     * @param  list<string>  $columns
     */
    private function condition(array $columns): string
    {
        return "CAST({$this->of($columns)} AS text) ".$this->of(["> 'a'", "< 'zz'", 'IS NOT NULL', "LIKE '%a%'"]);
    }

    /**
     * @param  array<string, Warehouse>  $clusters
     */
    private function ask(array $clusters, string $where): void
    {
        $document = Document::read($this->data);
        if (is_array($document)) {
            throw new LogicException(implode(' ', array_map(strval(...), $document)));
        }
        $catalog = PracticeCatalog::of($clusters);
        $policy = new Policy($document, $catalog, ['none' => new Hierarchy([], '2026-11-23')], '2026-11-23');
        $objects = [];
        foreach ($clusters as $cluster => $warehouse) {
            foreach ($warehouse->schemas() as $schema) {
                foreach ([...$warehouse->tables($schema), ...$warehouse->views($schema)] as $name) {
                    $objects[] = [
                        $cluster,
                        $schema,
                        $name,
                        array_map(
                            strval(...),
                            array_keys($catalog->table("{$cluster}.{$schema}.{$name}")->columns ?? ['id' => ColumnType::class]),
                        ),
                    ];
                }
            }
        }
        for ($i = 0; $i < self::ASKED; $i++) {
            [$cluster, $schema, $name, $columns] = $this->of($objects);
            $sql = $this->question($schema, $name, $columns);
            $chosen = $this->of([$schema, $schema, 'open', 'people', '']);
            $this->statements++;
            $decision = (new StatementDecider($policy, $policy->reader('person:eve'), $cluster, $chosen))->decide($sql);
            if ($decision->rewritten === null) {
                continue;
            }
            $this->answered++;
            $engine = new Engine($clusters[$cluster]);
            try {
                $outcome = $this->run($engine, $chosen, $decision->rewritten, $decision->isNarrowed());
                $said =
                    (string) json_encode([$outcome->rows, $outcome->message], JSON_PARTIAL_OUTPUT_ON_ERROR).
                    ($outcome->plan === null ? '' : PlanVeil::over($outcome->plan, $decision->veiled())->toJson());
            } catch (WarehouseError|SyntaxError $error) {
                $said = $error->getMessage();
            }
            foreach ($this->closed($catalog->table("{$cluster}.{$schema}.{$name}")?->view !== null) as $value) {
                if (stripos($said, $value) !== false) {
                    $this->leaks[] =
                        "{$where}: {$sql} on {$cluster} in {$chosen} showed {$value} by {$decision->rewritten}; ".
                        json_encode($this->data['rules']);
                    break;
                }
            }
        }
    }

    /**
     * @param  list<string>  $columns
     */
    private function question(string $schema, string $name, array $columns): string
    {
        $path = "{$schema}.{$name}";
        $column = $this->of($columns);

        return $this->of([
            "SELECT * FROM {$path}",
            "SELECT * FROM {$name}",
            "SELECT {$column} FROM {$path}",
            "SELECT max({$column}), min({$column}) FROM {$path}",
            "SELECT x.p1 FROM {$path} AS x (".
            implode(', ', array_map(static fn (int $i): string => 'p'.($i + 1), array_keys($columns))).
            ')',
            "SELECT CAST({$column} AS bigint) FROM {$path}",
            "SELECT {$column} FROM {$path} WHERE CAST({$column} AS bigint) > 0",
            "SELECT upper(CAST({$column} AS text)) FROM {$path} ORDER BY {$column}",
            "WITH q AS (SELECT * FROM {$path}) SELECT * FROM q",
            "SELECT {$column}, count(*) FROM {$path} GROUP BY {$column}",
            "SELECT note FROM open.day UNION ALL SELECT CAST({$column} AS text) FROM {$path}",
            'CREATE LOOKUP open.l'.++$this->next." WITH (key = {$column}) AS SELECT {$column} FROM {$path}",
            'CREATE ROLLUP open.l'.++$this->next." AS SELECT {$column}, count(*) FROM {$path} GROUP BY {$column}",
            "SELECT * FROM {$path} FOR SYSTEM_TIME AS OF TIMESTAMP '1970-01-01 00:00:00.000001'",
            "SELECT a.{$column} FROM {$path} AS a JOIN {$path} AS b ON a.{$column} = b.{$column}",
        ]);
    }

    /**
     * Values eve must not see: those of closed columns, and all of rows that are kept from her.
     *
     * @param  bool  $byView whether she asks a view, which is read with the grants of its owner
     * @return list<string>
     */
    private function closed(bool $byView): array
    {
        $denied = isset($this->data['grants']['not']) && ! $byView;
        $north = isset($this->data['rules']['rows']) || isset($this->data['dimensions']);
        $values = [];
        foreach ($this->rows as $row) {
            foreach (['name', 'phone', 'wage'] as $column) {
                if ($denied || isset($this->data['rules']["of {$column}"]) || ($north && $row['region'] !== 'north')) {
                    // Eight letters in a row, or the number: a last character that a mask leaves is none of it.
                    $values[] = $column === 'wage' ? (string) $row['wage'] : substr((string) $row[$column], 2, 8);
                }
            }
        }

        return $values;
    }

    private function run(Engine $engine, string $schema, string $sql, bool $careful = false): Outcome
    {
        return $engine->run(
            $sql,
            new Session($schema, 'attack', 2, $careful),
            new Limits(20, 5000, null, static fn (): int => (int) hrtime(true)),
        );
    }

    private function chance(int $percent): bool
    {
        return $this->random->getInt(1, 100) <= $percent;
    }

    /**
     * @template T
     *
     * @param  list<T>  $list
     * @return T
     */
    private function of(array $list): mixed
    {
        return $list[$this->random->getInt(0, count($list) - 1)];
    }
}

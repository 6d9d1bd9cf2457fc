<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Worlds;

use Closure;
use Fulcrion\Core\Access\Catalog\AccessCatalog;
use Fulcrion\Core\Access\Catalog\Hierarchy;
use Fulcrion\Core\Access\Catalog\TableEntry;
use Fulcrion\Core\Access\Catalog\TreeRow;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Access\Policy\PolicyProblem;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use LogicException;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * A small random world: a policy over two tables and two views, and what each person sees of them, worked out cell by
 * cell without any part of the engine: roles by walking them, labels by walking upwards, conditions and masks as
 * functions of this language.
 */
final class AccessWorld
{
    public const PEOPLE = ['ann', 'ben', 'cay'];

    /** Groups of fewer rows are left out of totals, by the settings of the policy. */
    public readonly int $smallest;

    public const KEY = 'a key of the oracle';

    public const DAY = '2026-11-23';

    /** The data every world looks at. Small, with NULLs, equal values and values that differ in little. */
    public const ROWS = [
        'a' => [
            ['k' => 1, 'v' => 'alpha', 'n' => 10, 'r' => 'north', 'c' => 'ann@x.example'],
            ['k' => 2, 'v' => 'beta', 'n' => 20, 'r' => 'south', 'c' => 'ben@y.example'],
            ['k' => 3, 'v' => 'beta', 'n' => 35, 'r' => 'fen', 'c' => null],
            ['k' => 4, 'v' => null, 'n' => 40, 'r' => 'hill', 'c' => 'cay@x.example'],
            ['k' => 5, 'v' => 'gamma', 'n' => null, 'r' => 'north', 'c' => 'no address'],
            ['k' => 6, 'v' => 'alphabet', 'n' => 65, 'r' => null, 'c' => 'ann@x.example'],
        ],
        'b' => [
            ['k' => 1, 'w' => 'alpha', 'd' => '2026-01-15'],
            ['k' => 1, 'w' => 'one', 'd' => '2026-02-03'],
            ['k' => 2, 'w' => 'two', 'd' => null],
            ['k' => 4, 'w' => 'beta', 'd' => '2025-12-31'],
            ['k' => 9, 'w' => null, 'd' => '2024-06-30'],
        ],
    ];

    public const COLUMNS = ['a' => ['k', 'v', 'n', 'r', 'c'], 'b' => ['k', 'w', 'd'], 'va' => ['k', 'vv', 'n'], 'vj' => ['k', 'v', 'w']];

    private const BRANCHES = [
        'land' => ['land', 'north', 'south', 'fen', 'hill'],
        'north' => ['north', 'fen'],
        'south' => ['south', 'hill'],
    ];

    private readonly Randomizer $random;

    /** @var array<string, mixed> */
    private array $data;

    /**
     * @var array<string, array{string, Closure(array<string, string>, array<string, string>, list<string>, array<string,
     *     string>): bool}> rule => effect, condition
     */
    private array $conditions = [];

    /** @var array<string, Closure(array<string, int|string|null>, array<string, string>): bool> rule => filter */
    private array $filters = [];

    public readonly Policy $policy;

    /**
     * @param  string|null  $hashKey of keyed hashes as practice clusters make them; null for those written for a live server
     */
    public function __construct(int $seed, private readonly string $schema, private readonly ?string $hashKey = null)
    {
        $this->random = new Randomizer(new Mt19937($seed));
        $this->data = [
            'people' => [],
            'roles' => [
                'low' => [],
                'mid' => ['includes' => $this->some(['low'])],
                'top' => ['includes' => $this->some(['mid', 'low'])],
                'keeper' => [],
            ],
        ];
        foreach (self::PEOPLE as $person) {
            $this->data['people'][$person] = [
                'roles' => $this->some(['low', 'mid', 'top']),
                'attributes' => ['region' => $this->one(['north', 'south', 'fen']), 'grade' => $this->one(['1', '2', '3'])],
            ];
        }
        $this->data['owners'] = [
            'estate' => ['owner' => 'role:keeper'],
            "store.{$schema}.va" => ['owner' => $this->one(['role:keeper', 'role:keeper', 'person:ben'])],
        ];
        $this->data['masks'] = [
            'gone' => ['shows' => 'nothing'],
            'last2' => ['shows' => 'last characters', 'count' => 2],
            'first3' => ['shows' => 'first characters', 'count' => 3],
            'hash' => ['shows' => 'keyed hash'],
            'domain' => ['shows' => 'without the local part of an e-mail'],
            'tens' => ['shows' => 'rounded', 'step' => '10'],
            'year' => ['shows' => 'year only'],
            'month' => ['shows' => 'rounded', 'step' => 'month'],
            'x' => ['shows' => 'fixed text', 'text' => 'x'],
            'own' => ['shows' => 'own expression', 'text' => "concat('<', value, '>')"],
        ];
        $this->grants();
        $this->labels();
        $this->rules();
        $this->scopes();
        $this->smallest = $this->one([1, 1, 2, 3]);
        $this->data['settings'] = ['smallest group' => ['value' => (string) $this->smallest]];
        $document = Document::read($this->data);
        if (is_array($document)) {
            throw new LogicException(implode(' ', array_map(static fn (PolicyProblem $p): string => (string) $p, $document)));
        }
        $this->policy = new Policy($document, self::catalog($schema), ['land' => self::tree()], self::DAY);
    }

    private static function catalog(string $schema): AccessCatalog
    {
        $type = static fn (string $kind): ColumnType => ColumnType::of(TypeKind::from($kind));
        [$whole, $text, $date] = [$type('bigint'), $type('text'), $type('date')];

        return new AccessCatalog([
            new TableEntry("store.{$schema}.a", ['k' => $whole, 'v' => $text, 'n' => $whole, 'r' => $text, 'c' => $text]),
            new TableEntry("store.{$schema}.b", ['k' => $whole, 'w' => $text, 'd' => $date]),
            new TableEntry("store.{$schema}.va", ['k' => $whole, 'vv' => $text, 'n' => $whole], self::views($schema)['va']),
            new TableEntry("store.{$schema}.vj", ['k' => $whole, 'v' => $text, 'w' => $text], self::views($schema)['vj']),
        ]);
    }

    /**
     * @return array<string, string>
     */
    public static function views(string $schema): array
    {
        return [
            'va' => "CREATE VIEW {$schema}.va (k, vv, n) AS SELECT k, concat(v, '!'), n FROM {$schema}.a WHERE k > 1",
            'vj' => "CREATE VIEW {$schema}.vj AS SELECT x.k, x.v, y.w FROM {$schema}.a AS x JOIN {$schema}.b AS y USING (k)",
        ];
    }

    private static function tree(): Hierarchy
    {
        $row = static fn (string $node, ?string $parent, string $name): TreeRow => new TreeRow($node, $parent, $name, null, null, [
            'name' => $name,
        ]);

        return new Hierarchy(
            [$row('0', null, 'land'), $row('1', '0', 'north'), $row('2', '0', 'south'), $row('3', '1', 'fen'), $row('4', '2', 'hill')],
            self::DAY,
        );
    }

    /**
     * @template T
     *
     * @param  list<T>  $of
     * @return T
     */
    public function one(array $of): mixed
    {
        return $of[$this->random->getInt(0, count($of) - 1)];
    }

    /**
     * @template T
     *
     * @param  list<T>  $of
     * @return list<T>
     */
    public function some(array $of): array
    {
        return array_values(array_filter($of, fn (): bool => $this->chance(50)));
    }

    public function chance(int $percent): bool
    {
        return $this->random->getInt(1, 100) <= $percent;
    }

    private function path(): string
    {
        $table = $this->one(['a', 'b', 'va', 'vj']);

        return $this->one([
            'estate',
            'store',
            "store.{$this->schema}",
            "store.{$this->schema}.{$table}",
            "store.{$this->schema}.{$table}.".$this->one(self::COLUMNS[$table]),
        ]);
    }

    /**
     * @return list<string>
     */
    private function subjects(): array
    {
        return [$this->one(['everyone', 'role:low', 'role:mid', 'role:top', 'person:ann', 'person:ben', 'role:low', 'role:mid'])];
    }

    /**
     * @return list<string>
     */
    private function exceptions(): array
    {
        return $this->chance(20) ? [$this->one(['person:ann', 'person:cay', 'role:top'])] : [];
    }

    private function grants(): void
    {
        $this->data['grants'] = [
            'in' => [
                'effect' => 'allow',
                'privileges' => ['use', ...$this->chance(60) ? ['select'] : []],
                'on' => $this->one(['estate', 'store', "store.{$this->schema}"]),
                'to' => ['everyone'],
            ],
        ];
        for ($i = $this->random->getInt(1, 4); $i > 0; $i--) {
            $this->data['grants']["g{$i}"] = [
                'effect' => $this->chance(80) ? 'allow' : 'deny',
                'privileges' => $this->chance(90) ? ['select'] : ['use', 'insert'],
                'on' => $this->path(),
                'to' => $this->subjects(),
                'except' => $this->exceptions(),
                ...$this->chance(10) ? ['until' => $this->one(['2026-11-22', '2026-11-23'])] : [],
            ];
        }
    }

    private function labels(): void
    {
        $this->data['labels'] = [];
        for ($i = $this->random->getInt(1, 4); $i > 0; $i--) {
            $path = $this->path();
            $key = $this->one(['personal', 'personal/mail', 'secret', 'grade']);
            $this->data['labels']["{$path} {$key}"] = [
                'on' => $path,
                'key' => $key,
                'value' => $this->one(['1', '2', 'yes']),
                ...$this->chance(10) ? ['state' => 'proposed'] : [],
            ];
        }
    }

    private function rules(): void
    {
        $this->data['rules'] = [];
        $kinds = [
            ["labelled_below('personal')", static fn (array $own): bool => self::below(array_keys($own), 'personal')],
            ["labelled('secret')", static fn (array $own): bool => isset($own['secret'])],
            [
                "label('grade') = '2' OR labelled('personal/mail')",
                static fn (array $own): bool => ($own['grade'] ?? null) === '2' || isset($own['personal/mail']),
            ],
            [
                "label('grade') > person('grade')",
                static fn (array $own, array $table, array $keys, array $person): bool => isset($own['grade']) &&
                    (! isset($person['grade']) || strcmp($own['grade'], $person['grade']) > 0),
            ],
            [
                "column_labelled_below('personal') AND person('region') <> 'north'",
                static fn (array $own, array $table, array $keys, array $person): bool => self::below($keys, 'personal') &&
                    ($person['region'] ?? null) !== 'north',
            ],
            [
                "NOT table_labelled('secret') AND labelled_below('personal')",
                static fn (array $own, array $table): bool => ! isset($table['secret']) && self::below(array_keys($own), 'personal'),
            ],
            // A label that is no number: an error, which closes.
            [
                "label('secret') > 1",
                static fn (array $own): bool => ($own['secret'] ?? null) === 'yes'
                    ? throw new LogicException('no number')
                    : isset($own['secret']) && (float) $own['secret'] > 1,
            ],
        ];
        for ($i = $this->random->getInt(0, 3); $i > 0; $i--) {
            $effect = $this->one(['mask', 'mask', 'mask', 'hide', 'deny', 'filter']);
            [$when, $condition] = $this->one($kinds);
            $rule = [
                'scope' => $this->one([
                    'estate',
                    "store.{$this->schema}",
                    "store.{$this->schema}.a",
                    "store.{$this->schema}.a.v",
                    "store.{$this->schema}.b",
                    "store.{$this->schema}.va",
                ]),
                'for' => $this->subjects(),
                'except' => $this->exceptions(),
                'when' => $when,
                'effect' => $effect,
            ];
            if ($effect === 'mask') {
                // A practice cluster is strict: an expression that makes a text of a number fails there.
                $rule['mask'] = $this->one(
                    array_values(
                        array_diff(array_map(strval(...), array_keys($this->data['masks'])), $this->hashKey === null ? [] : ['own']),
                    ),
                );
            }
            if ($effect === 'filter') {
                $rule['scope'] = "store.{$this->schema}.a";
                [$rule['filter'], $this->filters["r{$i}"]] = $this->one([
                    ["r = person('region')", static fn (array $row, array $person): bool => $row['r'] === $person['region']],
                    ['n >= 20 OR n IS NULL', static fn (array $row): bool => $row['n'] === null || $row['n'] >= 20],
                    ["v LIKE 'a%'", static fn (array $row): bool => $row['v'] !== null && str_starts_with((string) $row['v'], 'a')],
                ]);
            }
            $this->conditions["r{$i}"] = [$effect, $condition];
            $this->data['rules']["r{$i}"] = $rule;
        }
    }

    private function scopes(): void
    {
        $this->data['hierarchies'] = ['land' => ['table' => "store.{$this->schema}.a", 'node' => 'k', 'parent' => 'n', 'name' => 'name']];
        if (! $this->chance(35)) {
            return;
        }
        $this->data['dimensions'] = ['region' => ['columns' => ["store.{$this->schema}.a.r" => 'name'], 'hierarchy' => 'land']];
        $this->data['scopes'] = [
            // Somebody must own views and see all of it.
            'keepers' => [
                'dimension' => 'region',
                'for' => ['role:keeper', 'person:ben'],
                'everything' => true,
                'level' => 'detail',
                'mode' => 'trim',
            ],
        ];
        for ($i = $this->random->getInt(1, 3); $i > 0; $i--) {
            $this->data['scopes']["s{$i}"] = [
                'dimension' => 'region',
                'for' => $this->subjects(),
                'except' => $this->exceptions(),
                'level' => $this->one(['detail', 'detail', 'totals']),
                'mode' => $this->one(['trim', 'refuse']),
                ...$this->one([
                    ['values' => ['north', 'hill']],
                    ['branches' => [$this->one(['land', 'north', 'south'])]],
                    ['patterns' => ['%th']],
                    ['ranges' => ['a..h']],
                    ['everything' => true],
                ]),
            ];
        }
    }

    /**
     * @param  array<int|string>  $keys
     */
    private static function below(array $keys, string $key): bool
    {
        return array_filter($keys, static fn (int|string $one): bool => $one === $key || str_starts_with((string) $one, "{$key}/")) !== [];
    }

    /**
     * @return array<string, true> everyone, itself and the roles it holds, found by walking them
     */
    private function held(string $subject): array
    {
        $walk = function (string $role, array $held) use (&$walk): array {
            if (isset($held["role:{$role}"])) {
                return $held;
            }
            $held["role:{$role}"] = true;
            foreach ($this->data['roles'][$role]['includes'] ?? [] as $inner) {
                $held = $walk($inner, $held);
            }

            return $held;
        };
        $held = ['everyone' => true, $subject => true];
        [$kind, $name] = explode(':', $subject);
        foreach ($kind === 'role' ? [$name] : $this->data['people'][$name]['roles'] as $role) {
            $held = $walk($role, $held);
        }

        return $held;
    }

    /**
     * @param  array<string, mixed>  $item
     * @param  array<string, true>  $held
     */
    private static function concerns(array $item, array $held, string $field): bool
    {
        $in = static fn (array $subjects): bool => array_filter($subjects, static fn (string $one): bool => isset($held[$one])) !== [];

        return $in($item[$field]) && ! $in($item['except'] ?? []);
    }

    private static function covers(string $above, string $path): bool
    {
        return $above === 'estate' || $above === $path || str_starts_with($path, "{$above}.");
    }

    private function holds(string $subject, string $privilege, string $path): bool
    {
        $held = $this->held($subject);
        $allowed = false;
        foreach ($this->data['owners'] as $at => $owner) {
            $allowed = $allowed || (self::covers($at, $path) && isset($held[$owner['owner']]));
        }
        foreach ($this->data['grants'] as $grant) {
            if (
                in_array($privilege, $grant['privileges'], true) &&
                self::covers($grant['on'], $path) &&
                self::concerns($grant, $held, 'to') &&
                ($grant['until'] ?? self::DAY) >= self::DAY
            ) {
                if ($grant['effect'] === 'deny') {
                    return false;
                }
                $allowed = true;
            }
        }

        return $allowed;
    }

    /**
     * @return array<string, string>
     */
    private function labelsAt(string $path): array
    {
        $found = [];
        foreach (
            [
                'estate',
                ...array_map(
                    static fn (int $i): string => implode('.', array_slice(explode('.', $path), 0, $i)),
                    range(1, count(explode('.', $path))),
                ),
            ] as $place
        ) {
            foreach ($this->data['labels'] as $label) {
                if ($label['on'] === $place && ($label['state'] ?? 'accepted') === 'accepted') {
                    $found[$label['key']] = $label['value'];
                }
            }
        }

        return $found;
    }

    /**
     * Effects of rules on a column: deny, hide, or masks by name.
     *
     * @return array{deny: bool, hide: bool, masks: list<string>}
     */
    private function effects(string $subject, string $table, string $column): array
    {
        $held = $this->held($subject);
        $path = "store.{$this->schema}.{$table}.{$column}";
        $person = $this->person($subject);
        $result = ['deny' => false, 'hide' => false, 'masks' => []];
        foreach ($this->data['rules'] as $name => $rule) {
            [$effect, $condition] = $this->conditions[$name];
            if ($effect === 'filter' || ! self::covers($rule['scope'], $path) || ! self::concerns($rule, $held, 'for')) {
                continue;
            }
            try {
                $applies = $this->asks($condition, $this->labelsAt($path), $table, $person);
            } catch (LogicException) {
                $result['deny'] = true;

                continue;
            }
            if ($applies) {
                match ($effect) {
                    'deny' => ($result['deny'] = true),
                    'hide' => ($result['hide'] = true),
                    default => ($result['masks'][] = $rule['mask']),
                };
            }
        }

        return $result;
    }

    /**
     * @param  array<string, string>  $own
     * @param  array<string, string>  $person
     */
    private function asks(Closure $condition, array $own, string $table, array $person): bool
    {
        $keys = array_keys($this->labelsAt("store.{$this->schema}.{$table}"));
        foreach (self::COLUMNS[$table] as $column) {
            $keys = [...$keys, ...array_keys($this->labelsAt("store.{$this->schema}.{$table}.{$column}"))];
        }

        return $condition($own, $this->labelsAt("store.{$this->schema}.{$table}"), $keys, $person);
    }

    /**
     * @return array<string, string> a role has no attributes, and what depends on them holds
     */
    private function person(string $subject): array
    {
        return $this->data['people'][explode(':', $subject)[1]]['attributes'] ?? [];
    }

    private const STRICT = ['whole', 'month', 'tens', 'year', 'domain', 'last2', 'first3', 'hash', 'own', 'x', 'gone'];

    private function masked(string $mask, string $column, int|string|null $value): int|string|null
    {
        $number = in_array($column, ['k', 'n'], true);
        $date = $column === 'd';
        $blank = $number || $date ? null : '***';
        $text = (string) $value;
        if ($mask === 'gone' || ($mask === 'x' && $blank === null)) {
            return $blank;
        }
        if ($mask === 'x') {
            return 'x';
        }
        if ($mask === 'hash') {
            if ($date) {
                return null;
            }
            $hash =
                $value === null
                    ? null
                    : ($this->hashKey === null
                        ? hash('sha256', self::KEY.$text)
                        : hash_hmac('sha256', $text, $this->hashKey));

            return $hash === null ? null : ($number ? (int) hexdec(substr($hash, 0, 15)) : substr($hash, 0, 24));
        }

        return match ($mask) {
            'last2' => $blank === null ? null : ($value !== null && mb_strlen($text) > 2 ? '***'.mb_substr($text, -2) : '***'),
            'first3' => $blank === null ? null : ($value !== null && mb_strlen($text) > 3 ? mb_substr($text, 0, 3).'***' : '***'),
            'domain' => $blank === null ? null : (str_contains($text, '@') ? '***'.strstr($text, '@') : '***'),
            'tens' => $number ? ($value === null ? null : (int) (floor((int) $value / 10) * 10)) : $blank,
            'month' => $date ? ($value === null ? null : substr($text, 0, 7).'-01') : $blank,
            'year' => $date ? ($value === null ? null : substr($text, 0, 4).'-01-01') : $blank,
            default => $value === null ? null : ($date ? null : ($number ? 0 : "<{$text}>")),
        };
    }

    private static function stricter(string $a, string $b): int
    {
        return array_search($b, self::STRICT, true) <=> array_search($a, self::STRICT, true);
    }

    private function plants(string $subject, string $path): bool
    {
        $held = $this->held($subject);
        foreach ($this->data['owners'] as $at => $owner) {
            if (self::covers($at, $path) && isset($held[$owner['owner']])) {
                return true;
            }
        }

        return $this->holds($subject, 'insert', $path);
    }

    /**
     * What somebody sees of a table. Through a view its owner's grants count, and the rules of both.
     *
     * @param  list<string>  $rules whose rules, filters and scopes hold
     */
    public function table(string $grants, array $rules, string $table): VirtualTable
    {
        $use = $this->holds($grants, 'use', "store.{$this->schema}");
        $columns = $hidden = $masks = [];
        foreach (self::COLUMNS[$table] as $column) {
            $deny = ! $use || ! $this->holds($grants, 'select', "store.{$this->schema}.{$table}.{$column}");
            $hide = false;
            $found = [];
            foreach ($rules as $subject) {
                $effects = $this->effects($subject, $table, $column);
                $deny = $deny || $effects['deny'];
                $hide = $hide || $effects['hide'];
                $own = $effects['masks'];
                usort($own, self::stricter(...));
                // Whoever may write there could read the hash of any value.
                $found = [
                    ...$found,
                    ...($own[0] ?? '') === 'hash' && $this->plants($subject, "store.{$this->schema}.{$table}")
                        ? ['gone']
                        : array_slice($own, 0, 1),
                ];
            }
            if ($deny || $hide) {
                if (! $deny) {
                    $hidden[] = $column;
                }

                continue;
            }
            $columns[] = $column;
            usort($found, self::stricter(...));
            $masks[$column] = $found[0] ?? null;
        }
        [$scoped, $base] = [[], $this->rowsOf($grants, $rules, $table, $columns, $hidden)];
        $kept = $base;
        if ($table === 'a' && isset($this->data['dimensions'])) {
            foreach ($rules as $subject) {
                $scoped[$subject] = [
                    $this->allowed($subject, ['detail']),
                    $this->allowed($subject, ['detail', 'totals']),
                    $this->mode($subject),
                    $this->hasMore($subject),
                ];
                $kept = array_values(
                    array_filter(
                        $kept,
                        static fn (array $row): bool => $scoped[$subject][0] === null ||
                            ($row['r'] !== null && self::in((string) $row['r'], $scoped[$subject][0])),
                    ),
                );
            }
        }
        $show = fn (array $rows): array => array_map(function (array $row) use ($columns, $masks): array {
            $shown = [];
            foreach ($columns as $column) {
                $mask = $masks[$column] ?? null;
                $shown[$column] = $mask === null ? $row[$column] : $this->masked($mask, self::likeness($column), $row[$column]);
            }

            return $shown;
        }, $rows);
        $whole = array_values(
            array_filter($base, static function (array $row) use ($scoped): bool {
                foreach ($scoped as [, $totals]) {
                    if ($totals !== null && ! ($row['r'] !== null && self::in((string) $row['r'], $totals))) {
                        return false;
                    }
                }

                return true;
            }),
        );

        return new VirtualTable(
            $columns,
            $hidden,
            array_values($show($kept)),
            $columns === [],
            $scoped === [] ? [] : ['r' => $this->together($scoped)],
            array_values($show($whole)),
        );
    }

    /** The column of a table whose type a column of a view has. */
    private static function likeness(string $column): string
    {
        return ['vv' => 'v'][$column] ?? $column;
    }

    /**
     * @param  array<string, array{list<string>|null, list<string>|null, string, bool}>  $scoped by subject
     * @return array{list<string>|null, list<string>|null, string, bool} as if of one; refusing wins
     */
    private function together(array $scoped): array
    {
        $detail = $totals = null;
        $mode = 'trim';
        foreach ($scoped as [$one, $other, $how]) {
            $detail = $one === null ? $detail : ($detail === null ? $one : array_values(array_intersect($detail, $one)));
            $totals = $other === null ? $totals : ($totals === null ? $other : array_values(array_intersect($totals, $other)));
            $mode = $one !== null && $how === 'refuse' ? 'refuse' : $mode;
        }

        $more = array_filter($scoped, static fn (array $one): bool => $one[0] !== null && $one[3]) !== [];

        return [$detail, $totals, $mode, $more];
    }

    /**
     * @param  list<string>  $values
     */
    private static function in(string $value, array $values): bool
    {
        return in_array($value, $values, true);
    }

    /**
     * @param  list<string>  $levels
     * @return list<string>|null null for all
     */
    private function allowed(string $subject, array $levels): ?array
    {
        $held = $this->held($subject);
        $all = ['land', 'north', 'south', 'fen', 'hill'];
        $values = [];
        foreach ($this->data['scopes'] as $scope) {
            if (! self::concerns($scope, $held, 'for') || ! in_array($scope['level'], $levels, true)) {
                continue;
            }
            if (isset($scope['everything'])) {
                return null;
            }
            foreach ($all as $value) {
                $in =
                    in_array($value, $scope['values'] ?? [], true) ||
                    (isset($scope['patterns']) && str_ends_with($value, 'th')) ||
                    // @phpstan-ignore greaterOrEqual.alwaysTrue (the range is said whole, as the policy says it)
                    (isset($scope['ranges']) && $value >= 'a' && $value <= 'h') ||
                    (isset($scope['branches']) && in_array($value, self::BRANCHES[$scope['branches'][0]], true));
                if ($in) {
                    $values[] = $value;
                }
            }
        }

        return array_values(array_unique($values));
    }

    /** Whether scopes of level totals say anything that those of level detail do not, as they are written. */
    private function hasMore(string $subject): bool
    {
        $said = ['detail' => [], 'totals' => []];
        foreach ($this->data['scopes'] as $scope) {
            if (self::concerns($scope, $this->held($subject), 'for')) {
                $values = [
                    ...$scope['values'] ?? [],
                    ...array_merge([], ...array_map(static fn (string $branch): array =>
                        self::BRANCHES[$branch], $scope['branches'] ?? [])),
                ];
                $said[$scope['level']] = [
                    ...$said[$scope['level']],
                    ...$values,
                    ...$scope['patterns'] ?? [],
                    ...$scope['ranges'] ?? [],
                    ...isset($scope['everything']) ? ['everything'] : [],
                ];
            }
        }

        return array_diff($said['totals'], $said['detail']) !== [];
    }

    private function mode(string $subject): string
    {
        $held = $this->held($subject);
        $mine = array_filter($this->data['scopes'], static fn (array $scope): bool => self::concerns($scope, $held, 'for'));

        return $mine === [] || array_filter($mine, static fn (array $scope): bool =>
            $scope['mode'] === 'refuse') !== [] ? 'refuse' : 'trim';
    }

    /**
     * Raw rows of a table, or of a view over what may be seen of its tables, that no filter takes away.
     *
     * @param  list<string>  $rules
     * @param  list<string>  $columns
     * @param  list<string>  $hidden
     * @return list<array<string, int|string|null>>
     */
    private function rowsOf(string $grants, array $rules, string $table, array &$columns, array &$hidden): array
    {
        if (isset(self::ROWS[$table])) {
            $rows = self::ROWS[$table];
            foreach ($this->data['rules'] as $name => $rule) {
                if (! isset($this->filters[$name]) || $rule['scope'] !== "store.{$this->schema}.{$table}") {
                    continue;
                }
                foreach ($rules as $subject) {
                    if (! self::concerns($rule, $this->held($subject), 'for')) {
                        continue;
                    }
                    try {
                        if ($this->asks($this->conditions[$name][1], $this->labelsAt($rule['scope']), $table, $this->person($subject))) {
                            $rows = array_values(
                                array_filter($rows, fn (array $row): bool => $this->filters[$name]($row, $this->personOrNone($subject))),
                            );
                        }
                    } catch (LogicException) {
                        [$columns, $hidden] = [[], []];
                    }
                }
            }

            return $rows;
        }
        $owner = $this->data['owners']["store.{$this->schema}.{$table}"]['owner'] ?? $this->data['owners']['estate']['owner'];
        $base = $this->table($owner, array_values(array_unique([$owner, ...$rules])), 'a');
        $other = $table === 'vj' ? $this->table($owner, array_values(array_unique([$owner, ...$rules])), 'b') : null;
        // What the text of the view needs beside what it gives.
        $lost =
            ! in_array('k', $base->columns, true) ||
            $base->closed ||
            ($other !== null && ($other->closed || ! in_array('k', $other->columns, true)));
        $refused = ($base->scoped['r'][2] ?? 'trim') === 'refuse' && $base->scoped['r'][0] !== null;
        if ($lost || $refused) {
            [$columns, $hidden] = [[], []];

            return [];
        }
        $shut = static fn (string $column, VirtualTable $of): bool => ! in_array($column, $of->columns, true);
        $gone =
            $table === 'va'
                ? [...$shut('v', $base) ? ['vv'] : [], ...$shut('n', $base) ? ['n'] : []]
                : [...$shut('v', $base) ? ['v'] : [], ...$other !== null && $shut('w', $other) ? ['w'] : []];
        $hidden = [...$hidden, ...array_values(array_intersect($columns, $gone))];
        $columns = array_values(array_diff($columns, $gone));
        $rows = [];
        foreach ($base->rows as $row) {
            if ($table === 'va') {
                if ($row['k'] !== null && $row['k'] > 1) {
                    $rows[] = ['k' => $row['k'], 'vv' => ($row['v'] ?? null) === null ? null : "{$row['v']}!", 'n' => $row['n'] ?? null];
                }

                continue;
            }
            foreach ($other->rows ?? [] as $second) {
                if ($row['k'] !== null && $row['k'] === $second['k']) {
                    $rows[] = ['k' => $row['k'], 'v' => $row['v'] ?? null, 'w' => $second['w'] ?? null];
                }
            }
        }

        return $rows;
    }

    /**
     * @return array<string, string>
     */
    private function personOrNone(string $subject): array
    {
        return $this->data['people'][explode(':', $subject)[1]]['attributes'] ?? ['region' => "\0none"];
    }
}

<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Worlds;

use Fulcrion\Core\Access\Catalog\AccessCatalog;
use Fulcrion\Core\Access\Catalog\TableEntry;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use LogicException;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * A policy as large as a large house has: 2,000 people in 150 jobs, 200 roles, 500 rules, 2,000 tables of 10 columns.
 */
final class LargePolicy
{
    public const PEOPLE = 2000;

    private const JOBS = 150;

    private const ROLES = 200;

    private const RULES = 500;

    private const SCHEMAS = 40;

    private const TABLES = 50;

    public readonly Document $document;

    public readonly AccessCatalog $catalog;

    private readonly Randomizer $random;

    public function __construct(int $seed = 46)
    {
        $this->random = new Randomizer(new Mt19937($seed));
        $this->catalog = self::catalog();
        $document = Document::read($this->data());
        $this->document = $document instanceof Document ? $document : throw new LogicException((string) $document[0]);
    }

    public function policy(?Document $document = null): Policy
    {
        return new Policy($document ?? $this->document, $this->catalog, [], AccessWorld::DAY);
    }

    /** The policy with a draft of the kind a busy week makes: a rule for everybody, grants, labels, a role. */
    public function edited(): Document
    {
        $document = $this->document;
        foreach (
            [
                [
                    Kind::Rules,
                    'everybody',
                    [
                        'scope' => 'estate',
                        'for' => ['everyone'],
                        'when' => "labelled_below('personal/name')",
                        'effect' => 'mask',
                        'mask' => 'last',
                    ],
                ],
                [Kind::Rules, 'rule 7', ['off' => true] + ($this->document->find(Kind::Rules, 'rule 7')->fields ?? [])],
                [
                    Kind::Grants,
                    'new grant',
                    ['effect' => 'allow', 'privileges' => ['use', 'select'], 'on' => 'big.s3', 'to' => ['role:r12']],
                ],
                [Kind::Grants, 'new deny', ['effect' => 'deny', 'privileges' => ['select'], 'on' => 'big.s7.t4', 'to' => ['role:r30']]],
                [Kind::Roles, 'r5', ['includes' => ['r150']] + ($this->document->find(Kind::Roles, 'r5')->fields ?? [])],
                [Kind::Labels, 'a label', ['on' => 'big.s9.t1.c2', 'key' => 'personal/name', 'value' => '1']],
            ] as [$kind, $name, $fields]
        ) {
            $item = Item::of($kind, $name, $fields);
            $document = $item instanceof Item ? $document->with($item) : throw new LogicException((string) $item[0]);
        }

        return $document;
    }

    private static function catalog(): AccessCatalog
    {
        $text = ColumnType::of(TypeKind::Text);
        $tables = [];
        for ($s = 0; $s < self::SCHEMAS; $s++) {
            for ($t = 0; $t < self::TABLES; $t++) {
                $tables[] = new TableEntry(
                    "big.s{$s}.t{$t}",
                    array_fill_keys(['c0', 'c1', 'c2', 'c3', 'c4', 'c5', 'c6', 'c7', 'c8', 'c9'], $text),
                );
            }
        }

        return new AccessCatalog($tables);
    }

    /**
     * @return array<string, mixed>
     */
    private function data(): array
    {
        $pick = fn (int $below): int => $this->random->getInt(0, $below - 1);
        $data = [
            'masks' => [
                'last' => ['shows' => 'last characters', 'count' => 3],
                'hash' => ['shows' => 'keyed hash'],
                'gone' => ['shows' => 'nothing'],
            ],
            'owners' => ['estate' => ['owner' => 'role:r0']],
        ];
        for ($r = 0; $r < self::ROLES; $r++) {
            // Only later roles are included, so there is no circle.
            $data['roles']["r{$r}"] = $r < self::ROLES - 20 && $pick(3) === 0 ? ['includes' => ['r'.($r + 1 + $pick(19))]] : [];
            for ($g = 0; $g < 4; $g++) {
                $schema = $pick(self::SCHEMAS);
                $data['grants']["g{$r}-{$g}"] = [
                    'effect' => $pick(25) === 0 ? 'deny' : 'allow',
                    'privileges' => ['use', 'select'],
                    'on' => $pick(4) === 0 ? "big.s{$schema}.t".$pick(self::TABLES) : "big.s{$schema}",
                    'to' => ["role:r{$r}"],
                ];
            }
        }
        $data['grants']['enter'] = ['effect' => 'allow', 'privileges' => ['use'], 'on' => 'big', 'to' => ['everyone']];
        $jobs = [];
        for ($j = 0; $j < self::JOBS; $j++) {
            $jobs[] = array_values(array_unique(array_map(static fn (): string => 'r'.$pick(self::ROLES), range(1, 1 + $pick(3)))));
        }
        for ($p = 0; $p < self::PEOPLE; $p++) {
            $data['people']["p{$p}"] = [
                'roles' => $jobs[$pick(self::JOBS)],
                'attributes' => ['region' => ['north', 'east', 'south', 'west'][$pick(4)], 'grade' => $pick(3)],
            ];
            if ($pick(40) === 0) {
                $data['grants']["direct p{$p}"] = [
                    'effect' => 'allow',
                    'privileges' => ['select'],
                    'on' => 'big.s'.$pick(self::SCHEMAS).'.t'.$pick(self::TABLES),
                    'to' => ["person:p{$p}"],
                ];
            }
        }
        foreach (range(1, 3000) as $_) {
            $path = 'big.s'.$pick(self::SCHEMAS).'.t'.$pick(self::TABLES).'.c'.$pick(10);
            $key = ['personal/name', 'personal/phone', 'pay', 'secret', 'region'][$pick(5)];
            $data['labels']["{$path} {$key}"] = ['on' => $path, 'key' => $key, 'value' => (string) $pick(3)];
        }
        for ($i = 0; $i < self::RULES; $i++) {
            $effect = ['mask', 'mask', 'mask', 'hide', 'deny'][$pick(5)];
            $data['rules']["rule {$i}"] =
                [
                    'scope' => $pick(6) === 0 ? 'estate' : 'big.s'.$pick(self::SCHEMAS),
                    'for' => ['role:r'.$pick(self::ROLES)],
                    'effect' => $effect,
                    'when' => [
                        "labelled_below('personal')",
                        "label('pay') = '1'",
                        "labelled('secret') AND person('grade') < 2",
                        "label('region') <> '0' OR labelled('personal/phone')",
                    ][$pick(4)],
                ] + ($effect === 'mask' ? ['mask' => ['last', 'hash', 'gone'][$pick(3)]] : []);
        }

        return $data;
    }
}

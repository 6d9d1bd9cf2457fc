<?php

declare(strict_types=1);

namespace Tests\Core\Access;

use Fulcrion\Core\Access\Catalog\AccessCatalog;
use Fulcrion\Core\Access\Catalog\Hierarchy;
use Fulcrion\Core\Access\Catalog\TableEntry;
use Fulcrion\Core\Access\Catalog\TreeRow;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Decide\StatementDecider;
use Fulcrion\Core\Access\Decide\StatementDecision;
use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use PHPUnit\Framework\Assert;

/**
 * Two tables, a view, and a policy to be written beside each example.
 */
final class SampleAccess
{
    public const DAY = '2026-11-23';

    public static function catalog(): AccessCatalog
    {
        $type = static fn (string $kind): ColumnType => ColumnType::of(TypeKind::from($kind));

        return new AccessCatalog([
            new TableEntry('c.people.crew', [
                'id' => $type('bigint'),
                'name' => $type('text'),
                'phone' => $type('text'),
                'wage' => ColumnType::decimal(8, 2),
                'born' => $type('date'),
            ]),
            new TableEntry('c.field.pick', [
                'bay' => $type('bigint'),
                'id' => $type('bigint'),
                'house' => $type('bigint'),
                'kilos' => $type('double'),
            ]),
            new TableEntry(
                'c.people.list',
                ['id' => $type('bigint'), 'called' => $type('text'), 'tel' => $type('text'), 'pay' => $type('double')],
                'CREATE VIEW people.list (id, called, tel, pay) AS SELECT id, name, phone, wage * 12 FROM people.crew WHERE id > 0',
            ),
        ]);
    }

    /**
     * @param  array<string, array<string, array<string, mixed>>>  $sections beside those every example has: role crew for ann,
     *     both tables granted, role keeper owns all
     * @param  list<TreeRow>  $tree
     */
    public static function policy(array $sections = [], array $tree = []): Policy
    {
        $document = self::document($sections);

        return new Policy($document, self::catalog(), ['tree' => new Hierarchy($tree === [] ? self::tree() : $tree, self::DAY)], self::DAY);
    }

    /**
     * @param  array<string, array<string, array<string, mixed>>>  $sections
     */
    public static function document(array $sections = []): Document
    {
        $base = [
            'people' => [
                'ann' => ['roles' => ['crew'], 'attributes' => ['region' => 'north', 'clearance' => 1, 'sites' => [1, 5]]],
                'bob' => [],
            ],
            'roles' => ['crew' => [], 'keeper' => []],
            'owners' => ['estate' => ['owner' => 'role:keeper']],
            'grants' => ['all' => ['effect' => 'allow', 'privileges' => ['use', 'select'], 'on' => 'c', 'to' => ['role:crew']]],
            'labels' => [
                'phone' => ['on' => 'c.people.crew.phone', 'key' => 'personal/phone', 'value' => 'direct'],
                'wage' => ['on' => 'c.people.crew.wage', 'key' => 'pay', 'value' => 'secret'],
            ],
            'masks' => [
                'last2' => ['shows' => 'last characters', 'count' => 2],
                'last4' => ['shows' => 'last characters', 'count' => 4],
                'gone' => ['shows' => 'nothing'],
                'hash' => ['shows' => 'keyed hash'],
            ],
        ];
        foreach ($sections as $kind => $items) {
            $base[$kind] = $items + ($base[$kind] ?? []);
        }
        $document = Document::read($base);
        Assert::assertInstanceOf(Document::class, $document, is_array($document) ? implode(' ', array_map(strval(...), $document)) : '');

        return $document;
    }

    /**
     * @return list<TreeRow>
     */
    public static function tree(): array
    {
        return [
            self::row('0', null, 'all'),
            self::row('1', '0', 'north'),
            self::row('2', '0', 'south'),
            self::row('11', '1', 'house 1', '1'),
            self::row('15', '1', 'house 5', '5'),
            self::row('12', '2', 'house 2', '2'),
        ];
    }

    public static function row(
        string $node,
        ?string $parent,
        string $name,
        ?string $house = null,
        ?string $from = null,
        ?string $to = null,
    ): TreeRow {
        return new TreeRow($node, $parent, $name, $from, $to, ['house' => $house, 'name' => $name]);
    }

    public static function ask(Policy $policy, string $sql, string $who = 'person:ann'): StatementDecision
    {
        return (new StatementDecider($policy, $policy->reader($who), 'c'))->decide($sql);
    }

    /** What is run, or why nothing is. */
    public static function answer(Policy $policy, string $sql, string $who = 'person:ann'): string
    {
        $decision = self::ask($policy, $sql, $who);

        return $decision->rewritten ?? $decision->sentence();
    }
}

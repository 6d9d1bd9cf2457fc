<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Change;

use Closure;
use Fulcrion\Core\Access\Decide\Cause;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Decide\Refusal;
use Fulcrion\Core\Access\Decide\StatementDecision;
use Fulcrion\Core\Access\Policy\ConditionError;
use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Policy\Subject;
use Fulcrion\Core\Sql\SyntaxError;

/**
 * The smallest sets of additions that allow what was refused: grants, exceptions from rules, values and levels of
 * scopes. Each set is tried, so it does allow it, and none of its parts can be left out.
 */
final readonly class Additions
{
    private const ROUNDS = 12;

    /**
     * @param  Closure(Document): Policy  $compile
     * @param  Closure(Policy): StatementDecision  $decide what was refused, under another policy
     */
    public function __construct(private Policy $policy, private string $subject, private Closure $compile, private Closure $decide)
    {
    }

    /**
     * @return list<AccessRemedy> that which opens least first
     *
     * @throws ConditionError
     * @throws SyntaxError
     */
    public function remedies(): array
    {
        $remedies = [];
        $seen = [];
        $roles = array_keys(
            array_filter($this->policy->reader($this->subject)->roles, static fn (?string $through): bool => $through === null),
        );
        foreach (
            array_unique([$this->subject, ...array_map(static fn (int|string $role): string =>
                Subject::role((string) $role), $roles)]) as $for
        ) {
            foreach ([false, true] as $byColumn) {
                $additions = $this->closed($for, $byColumn);
                if ($additions === null) {
                    continue;
                }
                $key = implode(
                    '|',
                    array_map(
                        static fn (Addition $one): string => $one->item->kind->value.$one->item->name.$one->item->digest(),
                        $additions,
                    ),
                );
                if (! isset($seen[$key])) {
                    $seen[$key] = true;
                    $remedies[] = $this->remedy($additions, $for, $byColumn);
                }
            }
        }
        usort(
            $remedies,
            static fn (AccessRemedy $a, AccessRemedy $b): int => [$a->weight(), count($a->additions)] <=> [
                $b->weight(),
                count($b->additions),
            ],
        );

        return $remedies;
    }

    /**
     * @return list<Addition>|null null when nothing that can be added would allow it
     */
    private function closed(string $for, bool $byColumn): ?array
    {
        $document = $this->policy->document;
        $additions = [];
        for ($round = 0; $round < self::ROUNDS; $round++) {
            $policy = $additions === [] ? $this->policy : ($this->compile)($document);
            $decision = ($this->decide)($policy);
            if ($decision->isAllowed()) {
                return $this->least($additions);
            }
            $fresh = [];
            foreach ($decision->refusals as $refusal) {
                foreach ($this->answers($refusal, $for, $byColumn, $decision, $document) as $addition) {
                    $fresh[$addition->item->kind->value.' '.$addition->item->name] = $addition;
                    $document = $document->with($addition->item);
                }
            }
            if ($fresh === []) {
                return null;
            }
            foreach ($fresh as $key => $addition) {
                $additions[$key] = $addition;
            }
        }

        return null;
    }

    /**
     * @param  array<string, Addition>  $additions
     * @return list<Addition>
     */
    private function least(array $additions): array
    {
        foreach (array_keys($additions) as $key) {
            $fewer = $additions;
            unset($fewer[$key]);
            $document = $this->policy->document->with(...array_map(static fn (Addition $one): Item => $one->item, array_values($fewer)));
            if (($this->decide)(($this->compile)($document))->isAllowed()) {
                $additions = $fewer;
            }
        }
        foreach ($additions as $key => $addition) {
            $added = in_array($addition->item->kind, [Kind::Grants, Kind::Rules], true)
                ? $this->added($addition->item, $addition->item->texts('except'))
                : [];
            foreach (count($added) > 1 ? array_reverse($added) : [] as $subject) {
                $less = $this->excepting(
                    $additions[$key]->item,
                    array_values(array_diff($additions[$key]->item->texts('except'), [$subject])),
                );
                $tried = array_replace($additions, $less === [] ? [] : [$key => $less[0]]);
                $document = $this->policy->document->with(...array_map(static fn (Addition $one): Item =>
                    $one->item, array_values($tried)));
                if ($less !== [] && ($this->decide)(($this->compile)($document))->isAllowed()) {
                    $additions = $tried;
                }
            }
        }

        return array_values($additions);
    }

    /**
     * @param  list<Addition>  $additions
     *
     * @throws ConditionError
     * @throws SyntaxError
     */
    private function remedy(array $additions, string $for, bool $byColumn): AccessRemedy
    {
        $after = ($this->compile)($this->policy->document->with(...array_map(static fn (Addition $one): Item => $one->item, $additions)));
        $decision = ($this->decide)($after);

        return new AccessRemedy(
            'For '.
                Subject::show($for).
                ($byColumn &&
                array_filter(
                    $additions,
                    static fn (Addition $one): bool => $one->item->kind === Kind::Grants &&
                        ObjectPath::level($one->item->text('on')) === 'column',
                ) !== []
                    ? ', only the columns asked for'
                    : ''),
            $additions,
            (new BlastRadius($this->policy, $after))->shifts(),
            $decision->outcome() === 'allowed' ? '' : $decision->outcome(),
        );
    }

    /**
     * @return list<Addition>
     */
    private function answers(Refusal $refusal, string $for, bool $byColumn, StatementDecision $decision, Document $document): array
    {
        $for = $refusal->whose === '' ? $for : $refusal->whose;
        if ($refusal->dimension !== '') {
            return $this->value($refusal, $for);
        }
        $found = [];
        foreach ($refusal->causes as $cause) {
            array_push(
                $found,
                ...match ($cause->kind) {
                    Cause::NO_USE => [$this->grant('use', $cause->at, $for, $document)],
                    Cause::NO_GRANT => $this->granted($cause, $for, $byColumn, $decision, $document),
                    Cause::DENY_GRANT => $this->exception(Kind::Grants, $cause->name, [$for], $document),
                    Cause::RULE_DENY, Cause::RULE_HIDE, Cause::RULE_MASK => $this->exception(Kind::Rules, $cause->name, [$for], $document),
                    Cause::ORIGIN => $this->release($refusal->object, $document),
                    Cause::LINEAGE => $this->lineage($cause, $refusal->object, $for, $document),
                    default => [],
                },
            );
        }

        return $found;
    }

    /**
     * @return list<Addition>
     */
    private function granted(Cause $cause, string $for, bool $byColumn, StatementDecision $decision, Document $document): array
    {
        $column = ObjectPath::level($cause->at) === 'column';
        if ($cause->name !== 'select') {
            return [$this->grant($cause->name, $cause->at, $for, $document)];
        }
        $table = $column ? (string) ObjectPath::parent($cause->at) : $cause->at;
        if (! $byColumn) {
            return [$this->grant('select', $table, $for, $document)];
        }
        $columns = [];
        foreach ($decision->reads as $read) {
            if ($read->path === $table) {
                $columns += $read->uses;
            }
        }
        if ($columns === []) {
            return [$this->grant('select', $table, $for, $document)];
        }

        return array_map(
            fn (int|string $name): Addition => $this->grant('select', ObjectPath::child($table, (string) $name), $for, $document),
            array_keys($columns),
        );
    }

    private function grant(string $privilege, string $path, string $for, Document $document): Addition
    {
        $name = self::name("{$privilege} {$path} for ".str_replace(':', ' ', $for));
        $item = Item::of(Kind::Grants, $name, [
            'effect' => 'allow',
            'privileges' => [$privilege],
            'on' => $path,
            'to' => [$for],
            'reason' => 'asked for by a statement that was refused',
        ]);
        assert($item instanceof Item);

        return new Addition("Grant {$privilege} on {$path} to ".Subject::show($for), $item);
    }

    /**
     * @param  list<string>  $for
     * @return list<Addition>
     */
    private function exception(Kind $kind, string $name, array $for, Document $document): array
    {
        $old = $document->find($kind, $name);

        return $old === null ? [] : $this->excepting($old, array_values(array_unique([...$old->texts('except'), ...$for])));
    }

    /**
     * In words all that comes with it, whatever was added on the way.
     *
     * @param  list<string>  $except
     * @return list<Addition>
     */
    private function excepting(Item $old, array $except): array
    {
        $added = $this->added($old, $except);
        $item = Item::of($old->kind, $old->name, ['except' => $except] + $old->fields);

        return $item instanceof Item && $added !== []
            ? [
                new Addition(
                    'Except '.implode(' and ', array_map(Subject::show(...), $added))." from {$old->kind->one()} {$old->name}",
                    $item,
                ),
            ]
            : [];
    }

    /**
     * @param  list<string>  $except
     * @return list<string> those that are not excepted as it is
     */
    private function added(Item $item, array $except): array
    {
        return array_values(array_diff($except, $this->policy->document->find($item->kind, $item->name)?->texts('except') ?? []));
    }

    /**
     * A column of a view that needs one that is closed: the rule that closes it is named in the words of the cause. It may
     * hold for who asks, for who the view belongs to, or for both; whom it need not except is dropped later.
     *
     * @return list<Addition>
     */
    private function lineage(Cause $cause, string $object, string $for, Document $document): array
    {
        $owner = $this->policy->ownerOf((string) ObjectPath::parent($object));
        $found = [];
        foreach ($document->all(Kind::Rules) as $rule) {
            if (in_array($rule->text('effect'), ['hide', 'deny'], true) && str_contains(" {$cause->detail}", " rule {$rule->name} ")) {
                array_push($found, ...$this->exception(Kind::Rules, $rule->name, $owner === null ? [$for] : [$for, $owner], $document));
            }
        }

        return $found;
    }

    /**
     * A derived table released from what flowed into it, for everybody.
     *
     * @return list<Addition>
     */
    private function release(string $object, Document $document): array
    {
        $table = $this->policy->catalog->table($object) === null ? (string) ObjectPath::parent($object) : $object;
        if ($this->policy->catalog->table($table) === null || $document->find(Kind::Releases, $table) !== null) {
            return [];
        }
        $item = Item::of(Kind::Releases, $table, ['reason' => 'looked at: it shows nothing that its origins must not show']);
        assert($item instanceof Item);

        return [
            new Addition(
                "{$table} released, for everybody, from the labels, rules, filters and scopes of the tables its rows came from",
                $item,
            ),
        ];
    }

    /**
     * @return list<Addition>
     */
    private function value(Refusal $refusal, string $for): array
    {
        $dimension = $refusal->dimension;
        $hierarchy = $this->policy->hierarchyOf($dimension);
        $table = $this->policy->catalog->table((string) ObjectPath::parent($refusal->object));
        $by = '';
        foreach ($table === null ? [] : $this->policy->carriers($table) as $carrier) {
            $by =
                $carrier->dimension === $dimension && $carrier->column === (ObjectPath::parts($refusal->object)[3] ?? '')
                    ? $carrier->by
                    : $by;
        }
        $level = $refusal->privilege === 'totals' ? 'totals' : 'detail';
        $fields = ['dimension' => $dimension, 'for' => [$for], 'level' => $level, 'mode' => $this->policy->reader($for)->mode($dimension)];
        if ($refusal->values === []) {
            return [
                $this->scope(
                    "everything of {$dimension} in {$level} for ".str_replace(':', ' ', $for),
                    ['everything' => true] + $fields,
                    "All values of {$dimension} in ".($level === 'totals' ? 'totals' : 'detail').' for '.Subject::show($for),
                ),
            ];
        }
        $values = $ranges = $branches = [];
        foreach ($refusal->values as $value) {
            $above = $hierarchy === null || str_contains($value, '..') ? [] : $hierarchy->above($by, $value);
            if (str_contains($value, '..')) {
                $ranges[] = $value;
            } elseif ($above !== []) {
                $branches[] = $above[count($above) - 1];
            } else {
                $values[] = $value;
            }
        }

        return [
            $this->scope(
                "{$dimension} ".implode(' ', $refusal->values).' for '.str_replace(':', ' ', $for),
                ['values' => $values, 'ranges' => $ranges, 'branches' => $branches] + $fields,
                'Value'.
                    (count($refusal->values) > 1 ? 's ' : ' ').
                    implode(', ', [...$branches, ...$values, ...$ranges]).
                    " of {$dimension} for ".
                    Subject::show($for),
            ),
        ];
    }

    /**
     * @param  array<string, mixed>  $fields
     */
    private function scope(string $name, array $fields, string $title): Addition
    {
        $item = Item::of(Kind::Scopes, self::name($name), $fields);
        assert($item instanceof Item);

        return new Addition($title, $item);
    }

    private static function name(string $words): string
    {
        return strlen($words) <= 120 ? $words : substr($words, 0, 100).' '.substr(hash('xxh128', $words), 0, 12);
    }
}

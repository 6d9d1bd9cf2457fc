<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Policy;

use Closure;
use Fulcrion\Core\Access\Catalog\AccessCatalog;
use Fulcrion\Core\Access\Catalog\Hierarchy;
use Fulcrion\Core\Access\Decide\Masking;
use Fulcrion\Core\Access\Decide\RoleClosure;
use Fulcrion\Core\Access\Decide\Totals;

/**
 * Holds a policy against itself and against the catalog: names that lead nowhere, circles, conditions that cannot be
 * read, labels outside of their vocabulary. What is grave keeps a draft from being published.
 */
final readonly class DocumentCheck
{
    /**
     * @param  Document|null  $before the policy in force: what was wrong in it already does not keep other edits back
     * @param  array<string, Hierarchy>  $hierarchies
     */
    public function __construct(
        private Document $document,
        private AccessCatalog $catalog,
        private ?Document $before = null,
        private array $hierarchies = [],
    ) {
    }

    /**
     * @return list<PolicyProblem>
     */
    public function problems(): array
    {
        $problems = [];
        foreach (Kind::cases() as $kind) {
            foreach ($this->document->all($kind) as $item) {
                array_push($problems, ...$this->references($item), ...$this->contents($item));
            }
        }
        $circle = RoleClosure::circle($this->document->all(Kind::Roles));
        if ($circle !== []) {
            $problems[] = new PolicyProblem(
                Kind::Roles,
                $circle[0],
                'includes',
                'leads back to itself: '.implode(' > ', $circle).'; take one of these out',
            );
        }
        foreach ($this->hierarchies as $name => $hierarchy) {
            foreach ($hierarchy->problems as $problem) {
                $problems[] = new PolicyProblem(Kind::Hierarchies, $name, '', rtrim($problem, '.'), false);
            }
        }

        return $problems;
    }

    private function isNew(Item $item): bool
    {
        $old = $this->before?->find($item->kind, $item->name);

        return $old === null || ! $old->same($item);
    }

    /**
     * @return list<PolicyProblem>
     */
    private function references(Item $item): array
    {
        $problems = [];
        foreach ($item->kind->fields() as $field) {
            if ($field->of !== null) {
                foreach ($field->isList() ? $item->texts($field->name) : array_diff([$item->text($field->name)], ['']) as $name) {
                    if ($this->document->find($field->of, $name) === null) {
                        $problems[] = new PolicyProblem(
                            $item->kind,
                            $item->name,
                            $field->name,
                            "names {$field->of->one()} \"{$name}\", which is not there; add it or take the name out",
                            $this->isNew($item) || ! $this->wasGone($field->of, $name),
                        );
                    }
                }
            }
            if ($field->type === FieldType::Subject || $field->type === FieldType::Subjects) {
                foreach ($field->isList() ? $item->texts($field->name) : [$item->text($field->name)] as $subject) {
                    [$kind, $name] = Subject::split($subject);
                    $of = $kind === 'role' ? Kind::Roles : Kind::People;
                    if ($name !== '' && $this->document->find($of, $name) === null) {
                        // A person who has left takes nothing along; a role that is gone may have been a mistake.
                        $problems[] = new PolicyProblem(
                            $item->kind,
                            $item->name,
                            $field->name,
                            "names {$kind} \"{$name}\", who is not in the policy; take the name out",
                            $of === Kind::Roles && ($this->isNew($item) || ! $this->wasGone($of, $name)),
                        );
                    }
                }
            }
            if ($field->type === FieldType::Path || $field->type === FieldType::Paths) {
                foreach ($field->isList() ? $item->texts($field->name) : array_diff([$item->text($field->name)], ['']) as $path) {
                    if (! $this->catalog->has($path)) {
                        $problems[] = new PolicyProblem(
                            $item->kind,
                            $item->name,
                            $field->name,
                            "names {$path}, which is not in the catalog (dropped, renamed, or on a cluster that cannot be reached); it "
                                .'has no effect until it is there',
                            $this->isNew($item),
                        );
                    }
                }
            }
        }

        return $problems;
    }

    private function wasGone(Kind $kind, string $name): bool
    {
        return $this->before !== null && $this->before->find($kind, $name) === null;
    }

    /**
     * @return list<PolicyProblem>
     */
    private function contents(Item $item): array
    {
        $problems = match ($item->kind) {
            Kind::Rules => $this->rule($item),
            Kind::Masks => self::reading($item, 'text', static fn () => Masking::check($item)),
            Kind::Labels => $this->label($item),
            Kind::Dimensions => $this->dimension($item),
            Kind::Scopes => $this->scope($item),
            Kind::Settings => self::setting($item),
            default => [],
        };
        if ($item->kind->isNamedByPath() && ! $this->catalog->has($item->name)) {
            $problems[] = new PolicyProblem(
                $item->kind,
                $item->name,
                '',
                'is not in the catalog; name an object that is there',
                $this->isNew($item),
            );
        }

        return $problems;
    }

    /**
     * @param  Closure(): mixed  $read
     * @return list<PolicyProblem> why a field cannot be read
     */
    private static function reading(Item $item, string $field, Closure $read): array
    {
        try {
            $read();

            return [];
        } catch (ConditionError $error) {
            return [new PolicyProblem($item->kind, $item->name, $field, rtrim('cannot be read: '.$error->getMessage(), '.'))];
        }
    }

    /**
     * @return list<PolicyProblem>
     */
    private function rule(Item $rule): array
    {
        $problems = self::reading($rule, 'when', static fn (): Condition => Condition::parse($rule->text('when')));
        if ($rule->text('effect') === 'filter') {
            $columns = [];
            $unread = self::reading($rule, 'filter', function () use ($rule, &$columns): void {
                $columns = $this->filterColumns($rule, RowFilter::parse($rule->text('filter')));
            });
            array_push($problems, ...$unread, ...$columns);
        }
        if ($rule->text('effect') === 'mask' && $rule->text('mask') === '') {
            $problems[] = new PolicyProblem($rule->kind, $rule->name, 'mask', 'is missing: say which mask');
        }

        return $problems;
    }

    /**
     * @return list<PolicyProblem>
     */
    private function dimension(Item $item): array
    {
        $problems = [];
        foreach ($item->map('columns') as $path => $by) {
            if (! $this->catalog->has(strtolower((string) $path)) || ObjectPath::level((string) $path) !== 'column') {
                $problems[] = new PolicyProblem(
                    $item->kind,
                    $item->name,
                    'columns',
                    "names {$path}, which is no column of the catalog: its table, if there is one, is closed to whoever may not see "
                        .'all of the dimension',
                    $this->isNew($item),
                );
            }
        }

        return $problems;
    }

    /**
     * @return list<PolicyProblem>
     */
    private function scope(Item $item): array
    {
        $problems = [];
        $hierarchy =
            $this->hierarchies[$this->document->find(Kind::Dimensions, $item->text('dimension'))?->text('hierarchy') ?? ''] ?? null;
        foreach ($item->texts('branches') as $branch) {
            if ($hierarchy !== null && $hierarchy->branch($branch) === []) {
                $problems[] = new PolicyProblem(
                    $item->kind,
                    $item->name,
                    'branches',
                    "names \"{$branch}\", which is no node of the hierarchy today, or the name of several",
                    false,
                );
            }
            if ($hierarchy === null && $this->document->find(Kind::Dimensions, $item->text('dimension'))?->text('hierarchy') === '') {
                $problems[] = new PolicyProblem($item->kind, $item->name, 'branches', 'needs a dimension with a hierarchy');
            }
        }

        return $problems;
    }

    /**
     * @return list<PolicyProblem>
     */
    private static function setting(Item $item): array
    {
        $value = $item->text('value');
        $wrong = match (true) {
            $item->name === 'masked use' && ! in_array($value, ['masked value', 'refuse'], true) => 'must be "masked value" or "refuse"',
            $item->name === Totals::SMALLEST && preg_match('~^[1-9]\d{0,5}$~', $value) !== 1
                => 'must be a whole number from 1 to 999999: groups of fewer rows are left out of totals',
            default => null,
        };

        return $wrong === null ? [] : [new PolicyProblem($item->kind, $item->name, 'value', $wrong)];
    }

    /**
     * @return list<PolicyProblem>
     */
    private function filterColumns(Item $item, RowFilter $filter): array
    {
        $tables = $this->catalog->below($item->text('scope'));
        $missing = array_values(
            array_filter(
                $tables,
                static fn ($table): bool => array_diff($filter->columns(), array_map(strval(...), array_keys($table->columns))) !== [],
            ),
        );
        if ($missing === [] || $item->text('when') !== '') {
            return [];
        }

        return [
            new PolicyProblem(
                $item->kind,
                $item->name,
                'filter',
                'names '.
                    implode(', ', $filter->columns()).
                    ", which {$missing[0]->path} does not have".
                    (count($missing) > 1 ? ' (nor '.(count($missing) - 1).' more)' : '').
                    '; such tables are closed to whom the rule is for. Narrow its scope or its condition',
                $this->isNew($item),
            ),
        ];
    }

    /**
     * @return list<PolicyProblem>
     */
    private function label(Item $item): array
    {
        $trouble = self::labelTrouble($this->document, $item);

        return $trouble === null ? [] : [new PolicyProblem($item->kind, $item->name, 'value', $trouble, $this->isNew($item))];
    }

    /** What the vocabulary has against a label; null when nothing, or when its key is free. */
    public static function labelTrouble(Document $document, Item $label): ?string
    {
        $key = $document->find(Kind::Vocabulary, $label->text('key'));
        $values = $key?->texts('values') ?? [];
        if ($key === null || $values === [] || in_array($label->text('value'), $values, true)) {
            return null;
        }

        return "has the value \"{$label->text('value')}\", which is not in the vocabulary of {$label->text('key')}; allowed: ".
            implode(', ', $values);
    }
}

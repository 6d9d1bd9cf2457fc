<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

use Fulcrion\Core\Access\Catalog\TableEntry;
use Fulcrion\Core\Access\Policy\Condition;
use Fulcrion\Core\Access\Policy\ConditionError;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Policy\Privilege;
use Fulcrion\Core\Access\Policy\Subject;

/**
 * Says why: every grant, rule and scope that stands on the way to an object, whether it concerns the person, by which
 * nesting of roles, and what it did.
 */
final readonly class Explainer
{
    public function __construct(private Policy $policy, private Reader $reader)
    {
    }

    public function column(TableEntry $table, string $column): Reason
    {
        $access = $this->reader->table($table)->columns[$column];
        $path = ObjectPath::child($table->path, $column);

        return new Reason(Subject::show($this->reader->subject)." and {$path}: {$access->words()}", 'decides', [
            $this->who(),
            $this->grants($path, Privilege::Select),
            $this->labels($path),
            $this->rules($table, $path),
            $this->scopes($table, $column),
            ...$this->origins($table, $column),
        ]);
    }

    /**
     * The tables a column flowed from, which it is as closed as.
     *
     * @return list<Reason>
     */
    private function origins(TableEntry $table, string $column): array
    {
        $inner = [];
        foreach ($this->policy->origins($table) as $origin) {
            $from = array_map(strval(...), array_keys($origin->columns[$column] ?? []));
            if ($origin->path === $table->path || ($from === [] && $origin->conditions === [])) {
                continue;
            }
            $above = $this->reader->sourceByRules($this->policy->source($origin));
            $words = array_map(static fn (string $one): string => "{$one}: {$above->columns[$one]->words()}", [
                ...$from,
                ...array_diff($origin->conditions, $from),
            ]);
            $inner[] = new Reason(
                ($origin->former ? "It was called {$origin->path} before" : "Its rows come from {$origin->path}").
                    ': '.
                    implode(', ', $words),
                'adds',
            );
        }
        if ($inner === []) {
            return [];
        }

        return [new Reason('It is as closed as what flowed into it, until a steward lets it go by a release', 'adds', $inner)];
    }

    public function privilege(Privilege $privilege, string $path): Reason
    {
        $cause = $this->reader->missing($privilege, $path);

        return new Reason(
            Subject::show($this->reader->subject).
                " and {$privilege->value} on {$path}: ".
                ($cause === null ? 'allowed' : (string) $cause),
            'decides',
            [$this->who(), $this->grants($path, $privilege)],
        );
    }

    /**
     * One reason for each mention of a table in a statement.
     *
     * @return list<Reason>
     */
    public function statement(StatementDecision $decision): array
    {
        $reasons = [];
        foreach ($decision->refusals as $refusal) {
            $reasons[] = new Reason(
                $refusal->message,
                'decides',
                $refusal->type === Refusal::PRIVILEGE
                    ? $this->privilege(Privilege::from($refusal->privilege), $refusal->object)->inner
                    : [],
            );
        }
        foreach ($decision->reads as $read) {
            $inner = [];
            if ($read->owner !== null) {
                $inner[] = new Reason(
                    "It stands in the text of {$read->view}, so the grants of its owner count: ".
                        Subject::show($read->owner->subject).
                        '. Rules and scopes of the reader hold as well.',
                    'adds',
                );
            }
            foreach ($read->left as $what => $rows) {
                $inner[] = new Reason(ucfirst($what)." leaves the rows where {$rows}", 'adds');
            }
            foreach ($read->totals as $dimension) {
                $inner[] = new Reason(
                    "The statement does not break {$read->path} down by {$dimension}, and totals over all of it are allowed.",
                    'adds',
                );
            }
            $by = new self($this->policy, $read->owner ?? $this->reader);
            foreach (array_keys($read->uses) as $column) {
                $one = $by->column($read->access->table, (string) $column);
                $for = implode(', ', array_keys($read->uses[$column]));
                $inner[] = new Reason(
                    "{$column} ({$for}): {$read->access->columns[$column]->words()}",
                    $read->access->columns[$column]->sight === Sight::Visible ? 'nothing' : 'decides',
                    $one->inner,
                );
            }
            $reasons[] = new Reason(
                "{$read->path}".($read->alias === '' ? '' : " as {$read->alias}").': '.$this->sum($read),
                'adds',
                $inner === [] ? [$by->grants($read->path, Privilege::Select)] : $inner,
            );
        }

        return $reasons;
    }

    private function sum(TableRead $read): string
    {
        $counts = [];
        foreach ($read->access->columns as $access) {
            $counts[$access->sight->value] = ($counts[$access->sight->value] ?? 0) + 1;
        }

        return implode(
            ', ',
            array_map(
                static fn (string $sight, int $count): string => "{$count} ".($count === 1 ? 'column' : 'columns')." {$sight}",
                array_keys($counts),
                $counts,
            ),
        );
    }

    private function who(): Reason
    {
        $inner = [];
        foreach (array_keys($this->reader->roles) as $role) {
            $path = RoleClosure::path($this->reader->roles, (string) $role);
            $inner[] = new Reason('role '.implode(' > ', $path), 'adds');
        }
        foreach ($this->reader->attributes as $name => $value) {
            $inner[] = new Reason("{$name} = ".\Fulcrion\Core\Access\Policy\ItemChange::show($value));
        }
        $known =
            Subject::split($this->reader->subject)[0] !== 'person' ||
            $this->policy->document->find(Kind::People, Subject::split($this->reader->subject)[1]) !== null;

        return new Reason(
            $known
                ? (count($this->reader->roles) === 0
                    ? 'Holds no role'
                    : 'Holds '.
                        (count($this->reader->roles) === 1 ? 'one role' : count($this->reader->roles).' roles').
                        ', with those inside of them')
                : 'Is not in the policy, and has what everyone has',
            'adds',
            $inner,
        );
    }

    private function via(string $subject): string
    {
        [$kind, $name] = Subject::split($subject);
        if ($kind !== 'role') {
            return Subject::show($subject);
        }

        return 'role '.implode(' > ', RoleClosure::path($this->reader->roles, $name));
    }

    /**
     * @return string|null by which of the subjects the reader is meant; null when by none
     */
    private function meant(Item $item, string $field): ?string
    {
        foreach ($item->texts($field) as $subject) {
            if (isset($this->reader->subjects[$subject])) {
                return $this->via($subject);
            }
        }

        return null;
    }

    private function grants(string $path, Privilege $privilege): Reason
    {
        $line = ObjectPath::line($path);
        $schema = ObjectPath::of(array_slice(ObjectPath::parts($path), 0, 2));
        $inner = [];
        foreach ($line as $place) {
            if (isset($this->reader->owned[$place])) {
                $inner[] = new Reason(
                    "Owns {$place}, as ".$this->via($this->reader->owned[$place]).': everything below is granted',
                    'adds',
                );
            }
            foreach ($this->policy->document->all(Kind::Grants) as $grant) {
                if ($grant->text('on') !== $place) {
                    continue;
                }
                $privileges = $grant->texts('privileges');
                if (! in_array($privilege->value, $privileges, true) && ! in_array('use', $privileges, true)) {
                    continue;
                }
                $by = $this->meant($grant, 'to');
                $free = $this->meant($grant, 'except');
                $what = ($grant->text('effect') === 'deny' ? 'denies ' : 'allows ').implode(', ', $privileges)." at {$place}";
                $inner[] = match (true) {
                    $by === null => new Reason("Grant {$grant->name} {$what}, but is for others"),
                    $free !== null => new Reason("Grant {$grant->name} {$what}, but excepts {$free}"),
                    ! $grant->holds($this->policy->day) => new Reason("Grant {$grant->name} {$what}, but ended on {$grant->text('until')}"),
                    default => new Reason(
                        "Grant {$grant->name} {$what}, held as {$by}".($place === $path ? '' : ', inherited from there'),
                        $grant->text('effect') === 'deny' ? 'decides' : 'adds',
                    ),
                };
            }
        }
        $missing = $this->reader->missing(Privilege::Use, $schema) ?? $this->reader->missing($privilege, $path);

        return new Reason(
            'Grants: '.($missing === null ? "{$privilege->value} is held" : (string) $missing),
            $missing === null ? 'adds' : 'decides',
            $inner === [] ? [new Reason("No grant stands at {$path} or above")] : $inner,
        );
    }

    private function labels(string $path): Reason
    {
        $lines = $this->policy->labelLines($path);

        return new Reason(
            $lines === [] ? 'Labels: none' : 'Labels: '.count($lines),
            'nothing',
            array_map(
                static fn (array $line): Reason => new Reason(
                    "{$line[0]} = {$line[1]}".($line[2] === $path ? '' : ", inherited from {$line[2]}"),
                ),
                $lines,
            ),
        );
    }

    private function rules(TableEntry $table, string $path): Reason
    {
        $labels = $this->policy->labels($table);
        $column = ObjectPath::parts($path)[3] ?? '';
        $line = ObjectPath::line($path);
        $inner = [];
        $did = 0;
        foreach ($this->policy->document->all(Kind::Rules) as $item) {
            if (! in_array($item->text('scope'), $line, true)) {
                continue;
            }
            $what = "Rule {$item->name} at {$item->text('scope')}";
            $by = $this->meant($item, 'for');
            $free = $this->meant($item, 'except');
            if ($item->flag('off') || $by === null || $free !== null) {
                $inner[] = new Reason(
                    $what.($item->flag('off') ? ' is switched off' : ($by === null ? ' is for others' : " excepts {$free}")),
                );

                continue;
            }
            $when = $item->text('when');
            try {
                $own = $item->text('effect') === 'filter' ? $labels->table : $labels->columns[$column] ?? $labels->table;
                $holds = Condition::parse($when)->holds(
                    $own,
                    $labels->table,
                    $labels->columnKeys,
                    $this->reader->attributes,
                    $this->reader->roles,
                );
                $did += $holds ? 1 : 0;
                $inner[] = new Reason(
                    "{$what}, for {$by}: ".
                        ($when === '' ? 'always' : $when).
                        ($holds ? ' holds, so it '.self::effect($item) : ' does not hold'),
                    $holds ? 'decides' : 'nothing',
                );
            } catch (ConditionError $error) {
                $did++;
                $inner[] = new Reason("{$what}, for {$by}, is in error and closes the column: ".$error->getMessage(), 'decides');
            }
        }

        return new Reason(
            $inner === [] ? 'Rules: none stands here' : 'Rules: '.count($inner).' considered, '.$did.' with effect',
            $did === 0 ? 'nothing' : 'decides',
            $inner,
        );
    }

    private static function effect(Item $rule): string
    {
        return match ($rule->text('effect')) {
            'deny' => 'denies',
            'hide' => 'hides',
            'mask' => "masks by {$rule->text('mask')}",
            default => "leaves the rows where {$rule->text('filter')}",
        };
    }

    private function scopes(TableEntry $table, string $column): Reason
    {
        $inner = [];
        foreach ($this->policy->carriers($table) as $carrier) {
            $dimension = $carrier->dimension;
            $detail = $this->reader->allowed($dimension, $carrier->by, false);
            $totals = $this->reader->allowed($dimension, $carrier->by, true);
            $names = array_map(
                static fn (Item $scope): Reason => new Reason(
                    "Value scope {$scope->name}, {$scope->text('level')}, {$scope->text('mode')}",
                    'adds',
                ),
                $this->reader->scopes($dimension),
            );
            $inner[] = new Reason(
                "{$dimension}, carried by ".
                    ($carrier->column ?? 'no column that is there').
                    ": in detail {$detail->show()}".
                    ($totals->show() === $detail->show() ? '' : "; in totals {$totals->show()}"),
                $detail->everything ? 'nothing' : 'adds',
                $names === [] ? [new Reason('No value scope gives any value')] : $names,
            );
        }

        return new Reason(
            $inner === [] ? 'Value scopes: this table carries no dimension' : 'Value scopes: '.count($inner),
            'nothing',
            $inner,
        );
    }
}

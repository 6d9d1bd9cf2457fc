<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Review;

use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Decide\Reader;
use Fulcrion\Core\Access\Decide\RoleClosure;
use Fulcrion\Core\Access\Decide\Sight;
use Fulcrion\Core\Access\Policy\DocumentCheck;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Policy\Privilege;
use Fulcrion\Core\Access\Policy\Subject;

/**
 * Looks a policy through for what nobody needs, what opens too much, and what has no effect.
 */
final readonly class Review
{
    /** check => what it looks for, and why */
    public const CHECKS = [
        'unused-grant' => [
            'Grants nobody uses',
            'Rights that are held and not used are a risk without a benefit: a stolen account can use them. Counted from what '
                .'statements really read.',
        ],
        'direct-grant' => [
            'Grants to single people',
            'A grant to a person stays when the person changes teams. A role says why somebody may see something, and ends with it.',
        ],
        'wide-personal' => [
            'Personal columns open to many',
            'Personal values that many people see plainly are hardly needed by all of them. A mask leaves joins and counts possible.',
        ],
        'idle-deny' => [
            'Denies without effect',
            'A deny where nothing is allowed changes nothing today, and surprises whoever grants something there tomorrow.',
        ],
        'idle-rule' => [
            'Rules that match nothing',
            'A rule that concerns nobody or no object protects nothing. Perhaps a label, a role or a column has another name by now.',
        ],
        'ending-grant' => [
            'Grants that have ended or end soon',
            'An ended grant does nothing and can go; one that ends soon is best renewed before somebody is refused.',
        ],
        'no-team' => ['People without a team', 'Who belongs to no team is in no rule about teams, and nobody answers for what they hold.'],
        'stray-label' => [
            'Labels outside of their vocabulary',
            'A rule that asks for one value does not see the others. Labels with a stray value are not protected by it.',
        ],
        'unlabelled-personal' => [
            'Columns that look personal and carry no label',
            'Rules on labels cannot protect what carries none. Found by the names of columns and by the shape of sampled values.',
        ],
        'contradiction' => [
            'Rules that contradict each other',
            'Where two rules say different things of the same columns to the same people, the stricter holds; the other only misleads '
                .'its reader.',
        ],
        'lost-object' => [
            'Items that name what is not there',
            'An object was dropped or renamed. What named it has no effect until it is put right.',
        ],
        'hierarchy' => [
            'Hierarchies that contradict themselves',
            'A node with two parents or in a gap of its days belongs to no branch, so that people miss rows they should see.',
        ],
        'hidden-data' => ['Rules in error', 'A rule that cannot be evaluated closes what it is about until it is fixed.'],
    ];

    private const WIDE = 0.25;

    private const SOON_DAYS = 14;

    /**
     * @param  list<Usage>  $usage
     * @param  int  $usageDays how far back it goes
     */
    public function __construct(private Policy $policy, private array $usage, private int $usageDays)
    {
    }

    /**
     * @return list<Remark>
     */
    public function remarks(): array
    {
        return [
            ...$this->strayLabels(),
            ...$this->unusedGrants(),
            ...$this->directGrants(),
            ...$this->widePersonal(),
            ...$this->idleDenies(),
            ...$this->idleRules(),
            ...$this->endingGrants(),
            ...$this->peopleWithoutTeam(),
            ...$this->contradictions(),
            ...$this->documentProblems(),
        ];
    }

    /**
     * @return array<string, true> people who hold a subject
     */
    private function holders(string $subject): array
    {
        [$kind, $name] = Subject::split($subject);
        if ($kind === 'person') {
            return [$name => true];
        }
        $found = [];
        foreach ($this->policy->document->all(Kind::People) as $person) {
            if (
                $kind === Subject::EVERYONE ||
                array_key_exists($name, RoleClosure::of($this->policy->document->all(Kind::Roles), $person->texts('roles')))
            ) {
                $found[$person->name] = true;
            }
        }

        return $found;
    }

    /**
     * @return list<Remark>
     */
    private function strayLabels(): array
    {
        $remarks = [];
        foreach ($this->policy->document->all(Kind::Labels) as $label) {
            $trouble = DocumentCheck::labelTrouble($this->policy->document, $label);
            if ($trouble !== null) {
                $allowed = $this->policy->document->find(Kind::Vocabulary, $label->text('key'))?->texts('values') ?? [];
                $remarks[] = new Remark(
                    'stray-label',
                    $label->name,
                    true,
                    "{$label->text('on')} carries {$label->text('key')} = \"{$label->text(
                        'value',
                    )}\", which the vocabulary does not allow.",
                    ['key' => $label->text('key'), 'value' => $label->text('value'), 'allowed' => implode(', ', $allowed)],
                    at: $label->text('on'),
                );
            }
        }

        return $remarks;
    }

    /**
     * @return list<Remark>
     */
    private function unusedGrants(): array
    {
        if ($this->usage === []) {
            return [];
        }
        $remarks = $watched = [];
        foreach ($this->usage as $usage) {
            $watched[ObjectPath::parts($usage->table)[0] ?? ''] = true;
        }
        foreach ($this->policy->document->all(Kind::Grants) as $grant) {
            // Of a cluster whose statements are not known nobody can say what is used there.
            if ($grant->text('on') !== ObjectPath::ESTATE && ! isset($watched[ObjectPath::parts($grant->text('on'))[0]])) {
                continue;
            }
            $privileges = $grant->texts('privileges');
            if (
                $grant->text('effect') !== 'allow' ||
                ! $grant->holds($this->policy->day) ||
                ! in_array(Privilege::Select->value, $privileges, true)
            ) {
                continue;
            }
            $unused = [];
            foreach ($grant->texts('to') as $subject) {
                $holders = $this->holders($subject);
                $reads = 0;
                $seen = 0;
                foreach ($this->usage as $usage) {
                    $name = Subject::split($usage->subject)[1];
                    if (isset($holders[$name])) {
                        $seen += $usage->executions;
                        $reads +=
                            ObjectPath::within($usage->table, $grant->text('on')) || ObjectPath::within($grant->text('on'), $usage->table)
                                ? $usage->executions
                                : 0;
                    }
                }
                // Of those who run nothing at all nobody can say what they need.
                if ($reads === 0 && $seen > 0) {
                    $unused[$subject] = $seen;
                }
            }
            if ($unused === []) {
                continue;
            }
            $who = implode(', ', array_map(static fn (int|string $one): string => Subject::show((string) $one), array_keys($unused)));
            $left = array_values(array_diff($grant->texts('to'), array_map(strval(...), array_keys($unused))));
            $kept = $left === [] ? null : Item::of(Kind::Grants, $grant->name, ['to' => $left] + $grant->fields);
            $remarks[] = new Remark(
                'unused-grant',
                $grant->name,
                true,
                ucfirst($who).
                    ' may '.
                    implode(', ', $privileges).
                    " {$grant->text('on')} by grant {$grant->name}, and read nothing of it in {$this->usageDays} days.",
                [
                    'statements they ran instead' => (string) array_sum($unused),
                    'days looked at' => (string) $this->usageDays,
                    'reason given' => $grant->text('reason'),
                ],
                $kept instanceof Item ? [$kept] : [],
                $kept instanceof Item ? [] : [[Kind::Grants, $grant->name]],
                at: $grant->text('on'),
            );
        }

        return $remarks;
    }

    /**
     * @return list<Remark>
     */
    private function directGrants(): array
    {
        $remarks = [];
        foreach ($this->policy->document->all(Kind::Grants) as $grant) {
            foreach ($grant->texts('to') as $subject) {
                [$kind, $name] = Subject::split($subject);
                if ($kind !== 'person' || $grant->text('effect') !== 'allow') {
                    continue;
                }
                $person = $this->policy->document->find(Kind::People, $name);
                if ($person?->text('kind') === 'service') {
                    continue;
                }
                $left = array_values(array_diff($grant->texts('to'), [$subject]));
                $kept = $left === [] ? null : Item::of(Kind::Grants, $grant->name, ['to' => $left] + $grant->fields);
                $remarks[] = new Remark(
                    'direct-grant',
                    "{$grant->name} {$name}",
                    true,
                    ($person?->text('title', $name) ?? $name).
                        ' holds '.
                        implode(', ', $grant->texts('privileges')).
                        " on {$grant->text('on')} directly, by grant {$grant->name}.",
                    [
                        'person' => $name,
                        'roles held' => implode(', ', $person?->texts('roles') ?? []),
                        'until' => $grant->text('until', 'for ever'),
                        'reason given' => $grant->text('reason'),
                    ],
                    $kept instanceof Item ? [$kept] : [],
                    $kept instanceof Item ? [] : [[Kind::Grants, $grant->name]],
                    at: $grant->text('on'),
                );
            }
        }

        return $remarks;
    }

    /**
     * @return list<Remark>
     */
    private function widePersonal(): array
    {
        $people = array_filter(
            $this->policy->document->all(Kind::People),
            static fn (Item $person): bool => $person->text('kind') !== 'service',
        );
        if (count($people) < 4) {
            return [];
        }
        $open = [];
        $tables = [];
        foreach ($this->policy->catalog->tables as $table) {
            $labels = $this->policy->labels($table);
            foreach ($labels->columnKeys as $key => $_) {
                if ($key === 'personal' || str_starts_with((string) $key, 'personal/')) {
                    $tables[] = $table;
                    break;
                }
            }
        }
        foreach ($people as $person) {
            $reader = $this->policy->reader(Subject::person($person->name));
            foreach ($tables as $table) {
                $labels = $this->policy->labels($table);
                foreach ($reader->glance($table)->columns as $column => $access) {
                    $own = $labels->columns[$column] ?? $labels->table;
                    if (
                        $access->sight === Sight::Visible &&
                        array_filter(
                            array_keys($own),
                            static fn (int|string $key): bool => $key === 'personal' || str_starts_with((string) $key, 'personal/'),
                        ) !== []
                    ) {
                        $open[ObjectPath::child($table->path, (string) $column)] =
                            ($open[ObjectPath::child($table->path, (string) $column)] ?? 0) + 1;
                    }
                }
            }
        }
        $remarks = [];
        foreach ($open as $path => $count) {
            if ($count > self::WIDE * count($people)) {
                $remarks[] = new Remark(
                    'wide-personal',
                    (string) $path,
                    true,
                    "{$count} of ".count($people)." people see {$path} plainly, and it is labelled personal.",
                    ['people' => (string) $count, 'of' => (string) count($people)],
                    at: (string) $path,
                );
            }
        }

        return $remarks;
    }

    /**
     * @return list<Remark>
     */
    private function idleDenies(): array
    {
        $remarks = [];
        foreach ($this->policy->document->all(Kind::Grants) as $deny) {
            if ($deny->text('effect') !== 'deny' || ! $deny->holds($this->policy->day)) {
                continue;
            }
            $bits = Privilege::bits($deny->texts('privileges'));
            $works = false;
            foreach ($deny->texts('to') as $subject) {
                foreach (array_keys($this->holders($subject)) as $name) {
                    $works =
                        $works ||
                        $this->isAllowedAnything($this->policy->reader(Subject::person((string) $name)), $deny->text('on'), $bits);
                }
            }
            if (! $works) {
                $remarks[] = new Remark(
                    'idle-deny',
                    $deny->name,
                    false,
                    "The deny {$deny->name} at {$deny->text('on')} changes nothing: nobody it is for is allowed ".
                        implode(', ', $deny->texts('privileges')).
                        ' there.',
                    ['for' => implode(', ', array_map(Subject::show(...), $deny->texts('to')))],
                    [],
                    [[Kind::Grants, $deny->name]],
                    at: $deny->text('on'),
                );
            }
        }

        return $remarks;
    }

    private function isAllowedAnything(Reader $reader, string $path, int $bits): bool
    {
        foreach ($reader->grants as $grant) {
            if (
                $grant->text('effect') === 'allow' &&
                (Privilege::bits($grant->texts('privileges')) & $bits) !== 0 &&
                (ObjectPath::within($path, $grant->text('on')) || ObjectPath::within($grant->text('on'), $path))
            ) {
                return true;
            }
        }
        foreach (array_keys($reader->owned) as $owned) {
            if (ObjectPath::within($path, (string) $owned) || ObjectPath::within((string) $owned, $path)) {
                return true;
            }
        }

        return false;
    }

    /**
     * @return list<Remark>
     */
    private function idleRules(): array
    {
        $remarks = [];
        foreach ($this->policy->document->all(Kind::Rules) as $rule) {
            if ($rule->flag('off')) {
                continue;
            }
            $people = [];
            foreach ($rule->texts('for') as $subject) {
                $people += $this->holders($subject);
            }
            $concerned = [];
            foreach (array_keys($people) as $name) {
                $reader = $this->policy->reader(Subject::person((string) $name));
                if (array_filter($reader->rules, static fn ($mine): bool => $mine->item->name === $rule->name) !== []) {
                    $concerned[] = $reader->subject;
                }
            }
            $why =
                $concerned === []
                    ? 'it concerns nobody'
                    : ($this->matches($rule, $concerned)
                        ? null
                        : 'its condition holds for no object in its scope');
            if ($why !== null) {
                $remarks[] = new Remark('idle-rule', $rule->name, true, "Rule {$rule->name} matches nothing: {$why}.", [
                    'scope' => $rule->text('scope'),
                    'when' => $rule->text('when', 'always'),
                    'for' => implode(', ', array_map(Subject::show(...), $rule->texts('for'))),
                ], at: $rule->text('scope'));
            }
        }

        return $remarks;
    }

    /**
     * @param  list<string>  $subjects
     */
    private function matches(Item $rule, array $subjects): bool
    {
        foreach ($subjects as $subject) {
            $reader = $this->policy->reader($subject);
            foreach ($this->policy->catalog->below($rule->text('scope')) as $table) {
                $access = $reader->tableByRules($table);
                if (isset($access->filters[$rule->name])) {
                    return true;
                }
                foreach ([...array_values($access->columns)] as $column) {
                    foreach ($column->causes as $cause) {
                        if ($cause->name === $rule->name) {
                            return true;
                        }
                    }
                }
            }
        }

        return false;
    }

    /**
     * @return list<Remark>
     */
    private function endingGrants(): array
    {
        $remarks = [];
        $soon = gmdate('Y-m-d', (int) strtotime("{$this->policy->day} UTC +".self::SOON_DAYS.' days'));
        foreach ([Kind::Grants, Kind::Scopes] as $kind) {
            foreach ($this->policy->document->all($kind) as $item) {
                $until = $item->text('until');
                if ($until === '' || $until > $soon) {
                    continue;
                }
                $ended = $until < $this->policy->day;
                $remarks[] = new Remark(
                    'ending-grant',
                    "{$kind->one()} {$item->name}",
                    false,
                    ucfirst($kind->one())." {$item->name} ".($ended ? "ended on {$until} and has no effect." : "ends on {$until}."),
                    ['for' => implode(', ', array_map(Subject::show(...), [...$item->texts('to'), ...$item->texts('for')]))],
                    [],
                    $ended ? [[$kind, $item->name]] : [],
                    at: $item->text('on', $item->text('scope')),
                );
            }
        }

        return $remarks;
    }

    /**
     * @return list<Remark>
     */
    private function peopleWithoutTeam(): array
    {
        $remarks = [];
        foreach ($this->policy->document->all(Kind::People) as $person) {
            if ($person->text('kind') !== 'service' && $person->texts('roles') === [] && ! isset($person->map('attributes')['team'])) {
                $remarks[] = new Remark(
                    'no-team',
                    $person->name,
                    false,
                    $person->text('title', $person->name).' holds no role and has no attribute team.',
                );
            }
        }

        return $remarks;
    }

    /**
     * @return list<Remark>
     */
    private function contradictions(): array
    {
        $remarks = [];
        $rules = array_values(
            array_filter(
                $this->policy->document->all(Kind::Rules),
                static fn (Item $rule): bool => ! $rule->flag('off') && $rule->text('effect') !== 'filter',
            ),
        );
        foreach ($rules as $i => $one) {
            foreach (array_slice($rules, $i + 1) as $other) {
                $alike =
                    $one->text('when') === $other->text('when') &&
                    array_intersect($one->texts('for'), $other->texts('for')) !== [] &&
                    (ObjectPath::within($one->text('scope'), $other->text('scope')) ||
                        ObjectPath::within($other->text('scope'), $one->text('scope')));
                if ($alike && [$one->text('effect'), $one->text('mask')] !== [$other->text('effect'), $other->text('mask')]) {
                    $remarks[] = new Remark(
                        'contradiction',
                        "{$one->name} and {$other->name}",
                        false,
                        "Rules {$one->name} ({$one->text('effect')}) and {$other->name} ({$other->text(
                            'effect',
                        )}) say different things of the same columns to the same people.",
                        ['when' => $one->text('when', 'always')],
                        at: $one->text('scope'),
                    );
                }
            }
        }

        return $remarks;
    }

    /**
     * @return list<Remark>
     */
    private function documentProblems(): array
    {
        $remarks = [];
        foreach (
            (new DocumentCheck($this->policy->document, $this->policy->catalog, null, $this->policy->hierarchies))->problems() as $problem
        ) {
            $check = match (true) {
                $problem->kind === Kind::Hierarchies => 'hierarchy',
                str_contains($problem->message, 'cannot be read') => 'hidden-data',
                str_contains($problem->message, 'not in the catalog'),
                str_contains($problem->message, 'no column of the catalog'),
                str_contains($problem->message, 'not in the policy'),
                str_contains($problem->message, 'which is not there') => 'lost-object',
                default => null,
            };
            if ($check !== null) {
                $remarks[] = new Remark(
                    $check,
                    mb_strcut("{$problem->kind->one()} {$problem->name} {$problem->field} ".hash('crc32b', $problem->message), 0, 200),
                    $problem->grave,
                    (string) $problem,
                );
            }
        }

        return [...$remarks, ...$this->ruleErrors()];
    }

    /**
     * Rules that fail only when they are evaluated.
     *
     * @return list<Remark>
     */
    private function ruleErrors(): array
    {
        $errors = [];
        foreach ($this->policy->document->all(Kind::People) as $person) {
            $reader = $this->policy->reader(Subject::person($person->name));
            if ($reader->rules === []) {
                continue;
            }
            foreach ($this->policy->catalog->tables as $table) {
                foreach (self::failing($reader, $table) as $name => $detail) {
                    $errors[$name][0] = $detail;
                    $errors[$name][1][$person->name] = true;
                    $errors[$name][2][$table->path] = true;
                }
            }
            if (count($errors) === count($this->policy->document->all(Kind::Rules))) {
                break;
            }
        }
        $remarks = [];
        foreach ($errors as $name => [$detail, $people, $tables]) {
            $remarks[] = new Remark(
                'hidden-data',
                "rule {$name}",
                true,
                "Rule {$name} is in error and closes ".
                    (count($tables) === 1 ? 'one table' : count($tables).' tables').
                    ' to '.
                    (count($people) === 1 ? 'one person' : count($people).' people').
                    ": {$detail}",
                ['tables' => implode(', ', array_slice(array_keys($tables), 0, 5))],
                at: (string) array_key_first($tables),
            );
        }

        return $remarks;
    }

    /**
     * @return array<string, string> rule => error
     */
    private static function failing(Reader $reader, \Fulcrion\Core\Access\Catalog\TableEntry $table): array
    {
        $found = [];
        $access = $reader->tableByRules($table);
        foreach ($access->errors as $cause) {
            $found[$cause->name] = $cause->detail;
        }
        foreach ($access->columns as $column) {
            foreach ($column->causes as $cause) {
                if ($cause->kind === \Fulcrion\Core\Access\Decide\Cause::RULE_ERROR) {
                    $found[$cause->name] = $cause->detail;
                }
            }
        }

        return $found;
    }
}

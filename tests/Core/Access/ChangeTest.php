<?php

declare(strict_types=1);

namespace Tests\Core\Access;

use Fulcrion\Core\Access\Change\AccessRemedy;
use Fulcrion\Core\Access\Change\Addition;
use Fulcrion\Core\Access\Change\Additions;
use Fulcrion\Core\Access\Change\AskedQuery;
use Fulcrion\Core\Access\Change\BlastRadius;
use Fulcrion\Core\Access\Change\Replay;
use Fulcrion\Core\Access\Change\Shift;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Decide\StatementDecider;
use Fulcrion\Core\Access\Decide\StatementDecision;
use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Tools\Worlds\AccessQuestions;
use Fulcrion\Tools\Worlds\AccessWorld;
use PHPUnit\Framework\TestCase;

final class ChangeTest extends TestCase
{
    public function test_the_blast_radius_is_what_one_finds_by_asking_everybody_about_everything(): void
    {
        for ($seed = 1; $seed <= 250; $seed++) {
            $before = (new AccessWorld($seed, 's'))->policy;
            // Another world's items over these people and tables.
            $other = (new AccessWorld($seed + 5000, 's'))->policy->document;
            $document = $before->document;
            foreach ([Kind::Grants, Kind::Rules, Kind::Labels, Kind::Roles, Kind::People, Kind::Scopes, Kind::Dimensions] as $i => $kind) {
                if ((($seed >> $i) & 1) === 1) {
                    foreach (array_slice($other->all($kind), 0, 2) as $item) {
                        $document = $document->with($item);
                    }
                }
            }
            $after = new Policy($document, $before->catalog, $before->hierarchies, $before->day);
            $told = [];
            foreach ((new BlastRadius($before, $after))->shifts() as $shift) {
                if ($shift->kind === Shift::COLUMNS) {
                    foreach ($shift->people as $person) {
                        foreach ($shift->objects as $object) {
                            $told["{$person} {$object}"] = "{$shift->before} > {$shift->after}";
                        }
                    }
                }
            }
            $found = [];
            foreach (AccessWorld::PEOPLE as $person) {
                foreach ($before->catalog->tables as $table) {
                    [$old, $new] = array_map(
                        static fn (Policy $policy): array => (new StatementDecider(
                            $policy,
                            $policy->reader("person:{$person}"),
                            'store',
                            's',
                            Dialect::MariaDb,
                        ))->columnsOf($table),
                        [$before, $after],
                    );
                    foreach ($old as $column => $access) {
                        if ($access->words() !== $new[$column]->words()) {
                            $found[
                                "person:{$person} ".ObjectPath::child($table->path, (string) $column)
                            ] = "{$access->words()} > {$new[$column]->words()}";
                        }
                    }
                }
            }
            ksort($told);
            ksort($found);
            self::assertSame($found, $told, "world {$seed}");
        }
    }

    public function test_every_remedy_allows_what_was_refused_and_nothing_of_it_can_be_left_out(): void
    {
        $tried = 0;
        for ($seed = 1; $seed <= 120; $seed++) {
            $world = new AccessWorld($seed, 's');
            [$sql] = (new AccessQuestions($world, 's'))->ask('ann');
            $decide = static fn (Policy $policy): StatementDecision => (new StatementDecider(
                $policy,
                $policy->reader('person:ann'),
                'store',
                's',
                Dialect::MariaDb,
            ))->decide($sql);
            $compile = static fn (Document $document): Policy => new Policy(
                $document,
                $world->policy->catalog,
                $world->policy->hierarchies,
                $world->policy->day,
            );
            if ($decide($world->policy)->refusals === []) {
                continue;
            }
            foreach ((new Additions($world->policy, 'person:ann', $compile, $decide))->remedies() as $remedy) {
                $with = static fn (array $additions): bool => $decide(
                    $compile($world->policy->document->with(...array_map(static fn (Addition $one): Item => $one->item, $additions))),
                )->isAllowed();
                self::assertTrue($with($remedy->additions), "world {$seed}: {$remedy->title}");
                foreach (array_keys($remedy->additions) as $i) {
                    self::assertFalse(
                        $with(array_diff_key($remedy->additions, [$i => true])),
                        "world {$seed}: {$remedy->title} without ".$remedy->additions[$i]->title,
                    );
                }
                $tried++;
            }
        }
        self::assertGreaterThan(60, $tried);
    }

    public function test_a_refusal_is_answered_by_the_grant_the_exception_and_the_branch_that_open_least(): void
    {
        $answers = static function (Policy $policy, string $sql, string $who): array {
            $decide = static fn (Policy $other): StatementDecision => SampleAccess::ask($other, $sql, $who);

            return array_map(
                static fn (AccessRemedy $remedy): string => $remedy->title.
                    ': '.
                    implode(', ', array_map(static fn (Addition $one): string => $one->title, $remedy->additions)),
                (new Additions(
                    $policy,
                    $who,
                    static fn (Document $document): Policy => new Policy($document, $policy->catalog, $policy->hierarchies, $policy->day),
                    $decide,
                ))->remedies(),
            );
        };
        self::assertSame(
            [
                'For bob, only the columns asked for: Grant use on c.people to bob, Grant select on c.people.crew.name to bob',
                'For bob: Grant use on c.people to bob, Grant select on c.people.crew to bob',
            ],
            $answers(SampleAccess::policy(), 'SELECT name FROM people.crew', 'person:bob'),
        );
        $hide = SampleAccess::policy([
            'rules' => ['hide pay' => ['scope' => 'c.people', 'for' => ['role:crew'], 'when' => "labelled('pay')", 'effect' => 'hide']],
            'people' => ['ann' => ['roles' => ['crew']], 'cy' => ['roles' => ['crew']]],
        ]);
        self::assertSame(
            ['For ann: Except ann from rule hide pay', 'For role crew: Except role crew from rule hide pay'],
            $answers($hide, 'SELECT pay FROM people.list', 'person:ann'),
        );
        $rule = ['scope' => 'c.people', 'for' => ['everyone'], 'when' => "labelled('pay')", 'effect' => 'hide'];
        $all = SampleAccess::policy(['rules' => ['hide pay' => $rule]]);
        self::assertSame(
            'For ann: Except ann and role keeper from rule hide pay',
            $answers($all, 'SELECT pay FROM people.list', 'person:ann')[0],
            'who asks and who the view belongs to, both said',
        );
        $owners = SampleAccess::policy(['rules' => ['hide pay' => ['for' => ['role:keeper']] + $rule]]);
        self::assertSame(
            'c.people.list.pay is hidden for ann: it comes from c.people.crew.wage, and rule hide pay hides it for role keeper, who '
                .'owns the view.',
            SampleAccess::answer($owners, 'SELECT pay FROM people.list'),
        );
        self::assertStringNotContainsString('owns the view', SampleAccess::answer($all, 'SELECT pay FROM people.list'));
        self::assertSame(
            'For ann: Except role keeper from rule hide pay',
            $answers($owners, 'SELECT pay FROM people.list', 'person:ann')[0],
            'the owner alone, where the rule is not about who asks',
        );
        self::assertSame([], $answers(SampleAccess::policy(), 'GRANT SELECT ON people.crew TO ann', 'person:ann'));
    }

    public function test_statements_that_were_run_are_asked_again(): void
    {
        $before = SampleAccess::policy();
        $after = SampleAccess::policy([
            'rules' => ['hide pay' => ['scope' => 'c.people', 'for' => ['role:crew'], 'when' => "labelled('pay')", 'effect' => 'hide']],
        ]);
        $replay = (new Replay($before, $after))->run([
            new AskedQuery('1', 'SELECT wage FROM people.crew', 'c', '', 'person:ann', 40),
            new AskedQuery('2', 'SELECT name FROM people.crew', 'c', '', 'person:ann', 5),
            new AskedQuery('3', 'SELECT bay FROM field.pick', 'c', '', 'person:ann', 7),
            new AskedQuery('1', 'SELECT wage FROM people.crew', 'c', '', 'person:bob', 3),
        ]);
        self::assertEquals(['refused' => 3, 'allowed' => 12], $replay['same'], 'what does not name the hidden column is run as before');
        self::assertSame(55, $replay['executions']);
        self::assertSame(['1'], array_map(static fn ($one): string => $one->asked->statement, $replay['changed']));
        self::assertSame(
            ['allowed', 'refused', true],
            [$replay['changed'][0]->before, $replay['changed'][0]->after, $replay['changed'][0]->isWorse()],
        );
    }
}

<?php

declare(strict_types=1);

namespace Tests\Browser;

use Facebook\WebDriver\WebDriverBy;

/**
 * A steward's day: labels are fixed, unused grants go, somebody who is refused gets the least that helps.
 */
final class GuardWalkTest extends BrowserTestCase
{
    private const STEWARD = 'saskia@brackenfold.example';

    private const ENGINEER = 'idris@brackenfold.example';

    private const VIEWER = 'joon@brackenfold.example';

    private function main(): string
    {
        return $this->find('main')->getText();
    }

    private function publish(string $comment): void
    {
        $this->open('/guard/draft');
        $this->find('#publish-comment')->sendKeys($comment);
        $this->slowly($this->button('Publish as version'));
        self::assertStringContainsString('is in force', $this->main());
    }

    private function tryAs(string $who, string $sql, string $policy = 'published'): void
    {
        $this->open('/guard/try?'.http_build_query(['who' => $who, 'policy' => $policy, 'cluster' => 'fernhill', 'sql' => $sql]));
    }

    public function test_stray_labels_and_unlabelled_phones_are_found_and_fixed(): void
    {
        $this->signIn(self::STEWARD);
        $this->open('/guard/review?check=stray-label');
        self::assertCount(6, $this->texts('main tbody tr'), 'six columns, and none of their healthy neighbours');
        $this->open('/guard/review?check=unlabelled-personal');
        self::assertSame(
            ['fernhill.people.crew_member.phone', 'fernhill.people.grower.phone'],
            array_map(static fn (string $text): string => (string) strtok($text, ' '), $this->texts('main tbody td:nth-child(2)')),
        );

        $this->open('/guard/labels');
        self::assertStringStartsWith('6 labels have values outside of the vocabulary; 2 columns look personal', $this->heading());
        // Nothing chosen: a word on it, and nothing changes.
        $this->click($this->button('Fix them in the draft'));
        self::assertStringContainsString('Choose at least one label.', $this->main());
        $this->find('form[action="/guard/labels/fix"] [data-ticks-all]')->click();
        $this->click($this->button('Fix them in the draft'));
        self::assertStringContainsString('6 labels have the value direct in the draft', $this->main());
        $this->find('form[action="/guard/labels/detected"] [data-ticks-all]')->click();
        $this->click($this->button('Label the chosen ones in the draft'));
        self::assertStringStartsWith('Every label of a controlled key has a value of its vocabulary', $this->heading());

        // Nothing is in force yet, and what would happen is told beforehand.
        $this->tryAs('tove.marsh', 'SELECT phone, email FROM people.crew_member LIMIT 3');
        self::assertStringContainsString('@brackenfold.example', $this->main());
        $this->open('/guard/draft');
        $this->until('#replay');
        self::assertMatchesRegularExpression('~people would see less, 0 more~', $this->find('#radius')->getText());
        self::assertStringContainsString('would have gone otherwise', $this->find('#replay')->getText());
        self::assertStringContainsString('platform', $this->find('#replay')->getText());
        $this->publish('Personal columns carry the label the rule asks for');
        self::assertStringContainsString('findings are solved by it', $this->main());
        $this->click($this->link('people see less'));
        self::assertStringContainsString('Statements of the last four weeks, under both', $this->main());
        $this->tryAs('tove.marsh', 'SELECT phone, email FROM people.crew_member WHERE phone IS NOT NULL LIMIT 3');
        self::assertStringContainsString('masked', $this->heading());
        self::assertStringNotContainsString('@brackenfold.example', $this->main());
        $this->open('/guard/review?check=stray-label');
        self::assertSame([], $this->texts('main tbody tr'));
    }

    public function test_unused_and_direct_grants_are_found_and_taken_out(): void
    {
        $this->signIn(self::STEWARD);
        $found = [];
        foreach (['unused-grant', 'direct-grant'] as $check) {
            $this->open("/guard/review?check={$check}");
            $found[$check] = $this->texts('main tbody td:nth-child(2)');
        }
        self::assertCount(2, $found['unused-grant']);
        self::assertStringContainsString('Role packhouse', implode($found['unused-grant']));
        self::assertStringNotContainsString('energy_desk', implode($found['unused-grant']));
        self::assertStringContainsString('Tove Marsh', implode($found['direct-grant']));
        self::assertStringContainsString('Silas Keld', implode($found['direct-grant']));
        foreach (['unused-grant', 'direct-grant'] as $check) {
            $this->open("/guard/review?check={$check}");
            $this->find('[data-ticks-all]')->click();
            $this->click($this->button('Fix the chosen ones'));
            self::assertStringContainsString('What fixes 2 findings is in the draft', $this->main());
        }
        $this->publish('Grants nobody uses, and grants to single people');
        foreach (['unused-grant', 'direct-grant'] as $check) {
            $this->open("/guard/review?check={$check}");
            self::assertSame([], $this->texts('main tbody tr'), $check);
        }
    }

    public function test_from_a_refusal_by_a_rule_to_the_smallest_addition_and_to_rows(): void
    {
        $sql = 'SELECT crew_member_id, name, wage FROM people.crew_member ORDER BY crew_member_id LIMIT 3';
        $this->signIn(self::ENGINEER);
        $this->open('/tune/workbench?cluster=fernhill&sql='.rawurlencode($sql));
        $this->click($this->button('Run'));
        $this->until('#bench-outcome .notice.bad');
        self::assertStringContainsString(
            'fernhill.people.crew_member.wage is hidden for idris: rule hide pay hides it',
            $this->find('#bench-outcome')->getText(),
        );
        $this->click($this->link('Why, and what would allow it'));
        self::assertStringContainsString("label('pay') = 'confidential' holds, so it hides", $this->main());
        $this->click($this->link('Ask for access'));

        $this->signIn(self::STEWARD);
        $this->tryAs('idris', $sql, 'draft');
        self::assertSame('idris is refused', $this->heading());
        self::assertStringContainsString(
            'Except idris from rule hide pay',
            $this->find('.remedy')->getText(),
            'what opens least comes first',
        );
        self::assertStringContainsString('Opens for 1 person', $this->find('.remedy')->getText());
        $this->slowly($this->button('Add to the draft'));
        self::assertSame('idris gets 3 rows, masked', $this->heading());
        self::assertStringContainsString('What is run instead', $this->main());
        // In force it is still refused.
        $this->tryAs('idris', $sql);
        self::assertSame('idris is refused', $this->heading());
        $this->publish('Idris looks after the payroll load this month');

        $this->signIn(self::ENGINEER);
        $this->open('/tune/workbench?cluster=fernhill&sql='.rawurlencode($sql));
        $this->click($this->button('Run'));
        $this->until('#bench-outcome .result');
        $rows = $this->texts('#bench-outcome .result tbody tr');
        self::assertCount(3, $rows);
        self::assertStringContainsString('***', $rows[0], 'the name stays masked, the wage is shown');
    }

    public function test_from_a_refusal_by_a_value_scope_to_the_branch_of_its_hierarchy(): void
    {
        // Glasshouse 2 stands in the east; Ebba visits the north.
        $sql = 'SELECT glasshouse_id, sum(kilos) AS kilos FROM field.harvest_pick WHERE glasshouse_id IN (1, 2) GROUP BY glasshouse_id';
        $this->signIn(self::STEWARD);
        $this->tryAs('ebba.lund', $sql, 'draft');
        self::assertSame('ebba.lund is refused', $this->heading());
        self::assertStringContainsString('may not see 2 of site', $this->main());
        self::assertStringContainsString('Value Glasshouse 02 of site for ebba.lund', $this->find('.remedy')->getText());
        $this->slowly($this->button('Add to the draft'));
        self::assertSame('ebba.lund gets 2 rows, allowed', $this->heading());
        $this->publish('Ebba visits one house of the east as well');
        $this->tryAs('ebba.lund', $sql);
        self::assertSame('ebba.lund gets 2 rows, allowed', $this->heading());
        // Totals over everything are allowed, all of it in detail is not.
        $this->tryAs('ebba.lund', 'SELECT sum(kilos) AS kilos FROM field.harvest_pick');
        self::assertSame('ebba.lund gets 1 row, allowed', $this->heading());
        $this->tryAs('ebba.lund', 'SELECT glasshouse_id, kilos FROM field.harvest_pick');
        self::assertStringContainsString('may see site of fernhill.field.harvest_pick in totals only', $this->main());
        $this->tryAs('ebba.lund, role:packhouse', $sql);
        self::assertSame('None of 2 are refused', $this->heading());
    }

    public function test_a_steward_edits_a_rule_and_everybody_else_looks_on(): void
    {
        $this->signIn(self::STEWARD);
        $this->open('/guard/policy/rules/item');
        $this->find('#item-name')->sendKeys('no trade for visitors');
        $this->find('#field-scope')->sendKeys('fernhill.trade');
        $this->find('#field-for')->sendKeys("role:north_visits\n");
        $this->write('field-when', "label('domain' = 'trade'");
        $this->until('#field-when-says.bad-text');
        $this->click($this->button('Into the draft'));
        self::assertStringContainsString('Rule "no trade for visitors", field when, cannot be read', $this->main());
        $this->write('field-when', "label('domain') = 'trade'");
        for ($i = 0; $i < 50 && ! str_contains($this->find('#field-when-says')->getText(), 'It holds for'); $i++) {
            usleep(100_000);
        }
        self::assertMatchesRegularExpression('~It holds for \d+ of \d+ columns~', $this->find('#field-when-says')->getText());
        $this->click($this->button('Into the draft'));
        self::assertStringContainsString('is in the draft', $this->main());
        $this->open('/guard/draft');
        $this->click($this->button('Discard this edit'));
        self::assertStringContainsString('is discarded', $this->main());

        $this->signIn(self::VIEWER);
        $this->open('/guard');
        self::assertSame([], $this->driver()->findElements(WebDriverBy::partialLinkText('Try as')));
        $this->open('/guard/explain?who=joon&object=fernhill.people.crew_member.name');
        self::assertStringContainsString('denied', $this->heading());
        $this->open('/guard/try');
        self::assertStringContainsString('steward', $this->main());
    }

    public function test_the_pages_are_accessible_and_narrow(): void
    {
        $this->signIn(self::STEWARD);
        $this->assertFitForEverybody([
            '/guard',
            '/guard/try?who=idris&cluster=fernhill&sql=SELECT+name+FROM+people.grower+LIMIT+2',
            '/guard/policy/rules/item?name=mask+personal',
            '/guard/draft',
            '/guard/explain?who=joon',
            '/guard/explain?object=fernhill.people.grower.name',
            '/guard/matrix',
            '/guard/policy/grants',
            '/guard/labels',
            '/guard/review',
            '/guard/products',
            '/guard/requests',
            '/guard/decisions',
            '/guard/versions',
            '/guard/provisioning',
        ]);
    }
}

<?php

declare(strict_types=1);

namespace Tests\Browser;

use Facebook\WebDriver\WebDriverBy;
use Facebook\WebDriver\WebDriverKeys;

final class WorkbenchWalkTest extends BrowserTestCase
{
    private const ENGINEER = 'idris@brackenfold.example';

    private const VIEWER = 'joon@brackenfold.example';

    public function test_a_question_is_written_completed_run_sorted_and_looked_at_in_its_plan(): void
    {
        $this->signIn(self::ENGINEER);
        $this->open('/tune/workbench?cluster=fernhill&schema=field');
        self::assertStringStartsWith('Fernhill is a practice cluster', $this->heading());
        $editor = $this->write('bench-sql', "SELECT 1 AS one;\nSELECT grade, count(*) AS picks FROM harvest_p");
        $offered = fn (string $name): bool => str_contains(implode(' ', $this->texts('.cm-tooltip-autocomplete li')), $name);
        $this->eventually(fn (): bool => $offered('field.harvest_pick'), 'the table is offered');
        usleep(100_000);
        $editor->sendKeys(WebDriverKeys::ENTER);
        $this->eventually(fn (): bool => str_ends_with($this->written('bench-sql'), 'FROM field.harvest_pick'), 'it is taken');
        // A name for the table is followed by its columns, and by no other's.
        $editor->sendKeys(' h WHERE h.');
        $this->eventually(fn (): bool => $offered('crew_member_id'), 'the columns of h are offered');
        self::assertFalse($offered('sensor_kind'));
        $editor->sendKeys(WebDriverKeys::ESCAPE);
        $editor->sendKeys('kilos > 0');
        self::assertSame('SELECT', $this->texts('.cm-line .kw')[0] ?? null, 'words of the language have their colour');
        self::assertSame([], $this->driver()->manage()->getLog('browser'), 'the policy of the page lets the editor be');
        $editor->sendKeys(' GROUP BY grade ORDER BY grade'.WebDriverKeys::ESCAPE);
        // Ctrl+Enter runs the statement the cursor is in, not the one before it.
        $editor->sendKeys([WebDriverKeys::CONTROL, WebDriverKeys::ENTER]);
        $this->until('.outcome table');
        self::assertSame(['A', 'B', 'C'], $this->texts('.outcome tbody td:first-child'));
        self::assertStringContainsString('3 rows', $this->find('.told')->getText());
        $this->find('.outcome th:nth-child(2) button')->click();
        self::assertSame('C', $this->texts('.outcome tbody td:first-child')[0]);
        $this->find('.outcome th:nth-child(2) button')->click();
        self::assertSame('A', $this->texts('.outcome tbody td:first-child')[0]);
        self::assertSame('descending', $this->find('.outcome th:nth-child(2)')->getAttribute('aria-sort'));
        $href = (string) $this->find('.outcome a[download]')->getAttribute('href');
        $this->find('.outcome a[download]')->click();
        self::assertStringContainsString(
            'grade,picks',
            $this->downloaded('result-'.substr((string) preg_replace('~^.*/runs/~', '', $href), 0, 8).'.csv'),
        );

        $this->click($this->link('Open the plan'));
        self::assertMatchesRegularExpression('~% of .* \(modelled\) goes into~', $this->heading());
        self::assertStringContainsString('holds 7', $this->find('.findings')->getText());
        self::assertGreaterThanOrEqual(4, count($this->driver()->findElements(WebDriverBy::cssSelector('.plan-svg .gate'))));
        // A step of the figure leads to its row, which opens to the bars of its nodes.
        $this->driver()->executeScript(
            'document.querySelector(".plan-svg a:last-of-type").dispatchEvent(new MouseEvent("click", {bubbles: true}))',
        );
        $rows = $this->driver()->findElements(WebDriverBy::cssSelector('.steps > tbody > tr'));
        $last = $rows[count($rows) - 1];
        $this->driver()->executeScript('arguments[0].scrollIntoView({block: "center"})', [$last]);
        $last->findElement(WebDriverBy::cssSelector('summary'))->click();
        self::assertStringContainsString('node 12', $last->getText());
        $this->find('.twin summary')->click();
        self::assertStringContainsString('Read field.harvest_pick', $this->find('.plan-text')->getText());
        $this->click($this->link('JSON'));
        self::assertStringContainsString(
            'fulcrion-plan/1',
            $this->downloaded('plan-'.preg_replace('~^/tune/plans/(\d+).*$~', '$1', $this->address()).'.json'),
        );
        $this->click($this->link('Rehearse in the workbench'));
        self::assertStringContainsString('GROUP BY grade', $this->written('bench-sql'));
    }

    public function test_a_mistake_is_shown_where_it_is_and_the_text_stays(): void
    {
        $this->signIn(self::ENGINEER);
        $this->open('/tune/workbench?cluster=wren&schema=field');
        $this->write('bench-sql', "SELECT grade,\nkilo \nFROM harvest_pick ".WebDriverKeys::ESCAPE);
        $this->find('button[data-mode=run][data-which=one]')->click();
        $this->until('.outcome [role=alert]');
        self::assertStringContainsString(
            'Line 2: There is no column kilo here; perhaps kilos is meant',
            $this->find('.outcome')->getText(),
        );
        self::assertStringContainsString('^', $this->find('.mark-line')->getText());
        self::assertSame(['kilo'], $this->texts('.cm-editor .mistake'));
        self::assertStringContainsString('harvest_pick', $this->written('bench-sql'));
        $this->open('/tune/workbench?cluster=wren');
        self::assertStringContainsString('refused', $this->find('#bench-history')->getText());
        $this->click($this->find('#bench-history td.statement a'));
        self::assertStringContainsString('kilo', $this->written('bench-sql'));
    }

    public function test_a_long_run_shows_its_progress_and_is_stopped(): void
    {
        $this->signIn(self::ENGINEER);
        $this->open('/tune/workbench?cluster=fernhill&schema=field');
        $this->write(
            'bench-sql',
            'SELECT count(*) FROM harvest_pick a JOIN harvest_pick b ON a.kilos < b.kilos '.WebDriverKeys::ESCAPE,
        );
        $this->find('button[data-mode=run][data-which=one]')->click();
        $this->until('[data-running]:not([hidden])');
        usleep(600_000);
        $this->find('[data-stop]')->click();
        $this->until('.outcome [role=alert]');
        self::assertStringContainsString('Stopped by hand', $this->find('.outcome')->getText());
    }

    public function test_a_statement_leads_to_both_its_plans_side_by_side(): void
    {
        $this->signIn(self::ENGINEER);
        $this->open('/tune/plans?cluster=fernhill');
        self::assertStringContainsString('changed its plan', $this->heading());
        $this->click($this->find('td.statement a'));
        self::assertStringContainsString('The plan of this statement changed', $this->find('.notice')->getText());
        $this->click($this->link('Beside the plan first seen'));
        self::assertMatchesRegularExpression('~steps? differs?.*the second is slower by a factor of [5-7]~s', $this->heading());
        self::assertContains('second only', $this->texts('table[data-export="Two plans"] td:nth-child(2)'));
        self::assertCount(2, $this->driver()->findElements(WebDriverBy::cssSelector('.plan-svg')));
    }

    public function test_the_own_store_explains_a_statement_it_ran_with_real_figures(): void
    {
        $this->signIn(self::ENGINEER);
        $this->open('/tune/workbench?cluster=own-store&schema='.self::schema());
        self::assertStringStartsWith('Own store is live', $this->heading());
        $this->write(
            'bench-sql',
            'SELECT s.kind, SUM(l.executions) FROM load_day l JOIN statements s ON s.id = l.statement_id GROUP BY s.kind '.
                WebDriverKeys::ESCAPE,
        );
        $this->find('button[data-mode=actual]')->click();
        $this->until('.outcome .plan-svg');
        $this->click($this->link('Open the plan'));
        self::assertStringContainsString('(measured)', $this->heading());
        self::assertStringContainsString('Read load_day', $this->find('.steps')->getText());
    }

    public function test_the_catalog_leads_to_a_table_and_on_to_the_workbench(): void
    {
        $this->signIn(self::ENGINEER);
        $this->open('/tune/catalog?cluster=fernhill');
        self::assertMatchesRegularExpression('~Fernhill holds 19 tables and views in .*; \S+ is \d+~', $this->heading());
        $this->press('/');
        $this->driver()->getKeyboard()->sendKeys('sensor_kind');
        $this->eventually(fn (): bool => $this->texts('tbody td:first-child') === ['field.climate_reading'], 'the one table is left');
        $this->click($this->link('field.climate_reading'));
        self::assertStringContainsString('sensor_kind', $this->find('table[data-export="Columns"]')->getText());
        $this->click($this->link('Query it in the workbench'));
        self::assertStringContainsString('LIMIT 100', $this->written('bench-sql'));
        $this->signIn(self::VIEWER);
        $this->open('/tune/catalog?cluster=fernhill');
        self::assertSame([], $this->texts('a[href="/tune/workbench"]'));
    }
}

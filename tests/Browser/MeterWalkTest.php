<?php

declare(strict_types=1);

namespace Tests\Browser;

use Facebook\WebDriver\WebDriverBy;
use Facebook\WebDriver\WebDriverKeys;
use Facebook\WebDriver\WebDriverSelect;

/**
 * The month is up: why, by whom, what it costs, and whether the provider says the same.
 */
final class MeterWalkTest extends BrowserTestCase
{
    private const OWNER = 'marta@brackenfold.example';

    private const VIEWER = 'joon@brackenfold.example';

    private function main(): string
    {
        return $this->find('main')->getText();
    }

    private function choose(string $id, string $value): void
    {
        $select = new WebDriverSelect($this->find("#{$id}"));
        $this->following(static fn () => $select->selectByValue($value));
    }

    public function test_who_used_more_and_down_to_the_statement(): void
    {
        $this->signIn(self::OWNER);
        $this->open('/meter/usage');
        self::assertNotEmpty($this->texts('main tbody tr'));
        $this->click($this->link('Why it changed'));
        self::assertStringContainsString('forecast_lab', $this->heading(), 'who grew most is named without being asked for');
        $teams = $this->texts('table[data-name="Change by team"] tbody tr, main table tbody tr');
        self::assertNotEmpty(array_filter($teams, static fn (string $row): bool => str_starts_with($row, 'energy_desk')));
        $this->click($this->link('forecast_lab'));
        self::assertStringContainsString('/meter/why', $this->address());
        self::assertStringContainsString('team=forecast_lab', $this->address());
        $this->open('/meter/explore?rows=statement&columns=week&team=forecast_lab&days=last+28+days');
        self::assertStringContainsString('largest part', $this->heading());
        // Which of them took long, and how many of all that is.
        $this->open('/meter/explore?rows=person&columns=day&days=last+7+days');
        $this->find('#x-longer')->sendKeys('soon');
        $this->press(WebDriverKeys::ENTER);
        self::assertStringContainsString('is no duration. Try: 500 ms, 10 s', $this->main());
        $this->find('#x-longer')->clear()->sendKeys('10 s');
        $this->press(WebDriverKeys::ENTER);
        self::assertMatchesRegularExpression(
            '~^Executions longer than 10 s, .*, \d+(\.\d+)?% of all; forecast_lab has the largest part~',
            $this->heading(),
        );
        self::assertStringContainsString('longer=10 s', urldecode($this->address()));
        $this->choose('x-columns', 'daytime');
        $this->eventually(fn (): bool => str_contains($this->main(), '07 to 08 h'), 'hours of the day stand on the columns');
        self::assertStringContainsString('Executions longer than 10 s', $this->heading(), 'a filter stays');
    }

    public function test_days_are_rebuilt_while_one_looks(): void
    {
        $this->signIn(self::OWNER);
        $this->open('/meter/days');
        self::assertMatchesRegularExpression('~^\d+ days of use are closed; \d days? may still change$~', $this->heading());
        $day = gmdate('Y-m-d', time() - 3 * 86_400);
        // A date is typed the way the browser asks for it.
        foreach (['d-from', 'd-to'] as $id) {
            $this->driver()->executeScript("document.getElementById('{$id}').value = '{$day}'");
        }
        $this->slowly($this->button('Rebuild them'));
        $this->eventually(fn (): bool => str_contains($this->main(), 'one day unchanged'), 'the day is looked at');
        self::assertStringContainsString("{$day}.", $this->main());
        $this->assertFitForEverybody(['/meter/days']);
    }

    public function test_a_price_a_cost_and_a_bill(): void
    {
        $this->signIn(self::OWNER);
        $this->open('/meter/prices?cluster=wren');
        $this->find('#p-amount')->sendKeys('12,50');
        $this->find('#p-from')->sendKeys('2026-11-01');
        (new WebDriverSelect($this->find('#p-kind')))->selectByValue('monthly_fee');
        $this->click($this->button('Add it'));
        self::assertStringContainsString('A price is a number with a point', $this->main());
        self::assertSame('2026-11-01', $this->find('#p-from')->getAttribute('value'), 'nothing typed is lost');
        $this->find('#p-amount')->clear()->sendKeys('12.50');
        $this->click($this->button('Add it'));
        self::assertStringContainsString('The price is in the book', $this->main());

        $this->open('/meter/cost?days=last+7+days');
        self::assertMatchesRegularExpression(
            '~Fernhill and Wren cost [\d\x{202F}.]+.EUR.*idle; the largest team is ~u',
            $this->heading(),
        );
        $this->choose('c-by', 'application');
        self::assertStringContainsString('the largest application is', $this->heading());
        self::assertStringContainsString('by=application', $this->address());

        // Four fifths of what the dashboards cost comes from five of them, which rollups would answer.
        $this->choose('c-by', 'team');
        $this->click($this->link('boards'));
        self::assertMatchesRegularExpression('~^boards cost .* statements make 8\d% of it$~', $this->heading());
        self::assertStringContainsString('rollups of about', $this->main());
        $this->click($this->link('a month'));
        self::assertStringContainsString('/ledger/findings/', $this->address());

        $this->open('/meter/bills');
        self::assertSame('The bill differs from the price book', $this->heading());
        $this->find('main tbody a')->click();
        self::assertStringContainsString('above what was computed', $this->heading());
        self::assertStringContainsString('Nothing ran on these days, and the price book has none then', $this->main());
        self::assertStringContainsString('A credit, which no price book foresees', $this->main());

        // A wrong turn first: a file that is no bill, then one in another currency, then one of a cluster nobody knows.
        $head = 'BilledCost,BillingCurrency,ChargeCategory,ChargePeriodStart,ChargePeriodEnd,ResourceId,PricingUnit,PricingQuantity';
        $line = '10,EUR,Usage,2026-06-01,2026-06-02,cluster-77,Hours,10';
        foreach ([
            "a,b\n1,2\n" => 'Line 1: the column BilledCost',
            "{$head}\n".str_replace(['EUR', 'cluster-77'], ['CHF', 'wren'], $line)."\n" => 'Type how many EUR one CHF is',
            "{$head}\n{$line}\n" => 'The bill was read.',
        ] as $text => $said) {
            $this->open('/meter/bills');
            $path = (string) tempnam(sys_get_temp_dir(), 'bill').'.csv';
            file_put_contents($path, $text);
            $this->find('#b-file')->sendKeys($path);
            $this->slowly($this->button('Read it'));
            unlink($path);
            self::assertStringContainsString($said, $this->main());
        }
        (new WebDriverSelect($this->find('#b-is-0')))->selectByValue('wren');
        $this->click($this->button('Save'));
        self::assertStringContainsString('cluster-77 is Wren', $this->main());
        $this->open('/ledger/findings?cluster=wren');
        self::assertStringContainsString('were billed for days on which nothing ran', $this->main());
    }

    public function test_a_statement_of_account_is_looked_at_and_sent(): void
    {
        $this->signIn(self::OWNER);
        $this->open('/meter/team?team=boards&days=last+7+days');
        self::assertMatchesRegularExpression(
            '~^boards cost [\d.]+.EUR, .*: (<?\d.* (more|less) than|as much as) in the 7 days before$~u',
            $this->heading(),
        );
        self::assertStringContainsString('Its most expensive statements', $this->main());
        $this->choose('t-measure', 'bytes_scanned');
        self::assertStringContainsString('Bytes scanned changed by', $this->main());
        $this->click($this->link('Send it every month'));
        $this->find('#a-to')->sendKeys('head-of-boards@brackenfold.example');
        $this->find('#a-day')->clear()->sendKeys('31');
        $this->click($this->button('Show me the first one'));
        self::assertStringContainsString('A day is a number from 1 to 28', $this->main());
        self::assertSame('head-of-boards@brackenfold.example', $this->find('#a-to')->getAttribute('value'), 'nothing typed is lost');
        $this->find('#a-day')->clear()->sendKeys('2');
        $this->slowly($this->button('Show me the first one'));
        self::assertStringContainsString('Nothing goes out before you say so', $this->main());
        self::assertStringStartsWith('boards ', $this->heading());
        $this->click($this->button('It may go out'));
        self::assertStringContainsString('on day 2 of each month', $this->main());
        $this->slowly($this->button('Send '));
        self::assertStringContainsString('No mail server is set up here', $this->main());
        self::assertCount(1, array_filter($this->texts('main tbody tr'), static fn (string $row): bool => str_contains($row, 'kept')));
        $this->click($this->link('kept'));
        self::assertStringContainsString('Statement of account of boards', $this->heading());
        self::assertStringContainsString('account-boards-', $this->main());
        $this->assertFitForEverybody(['/meter/team?team=boards&days=last+7+days', '/meter/accounts', $this->address()]);
    }

    public function test_results_nobody_reads_are_found_and_nobody_else_is_accused(): void
    {
        $this->signIn(self::OWNER);
        $this->open('/ledger/findings?rule=unread-results');
        $rows = $this->texts('main tbody tr');
        self::assertCount(1, $rows, implode("\n", $rows));
        self::assertMatchesRegularExpression('~field\.water_night is still written by ops_legacy; it was last read on~', $rows[0]);
        $this->click($this->link('water_night'));
        self::assertStringContainsString('630 times', $this->main(), 'ninety a night in seven nights');
        self::assertMatchesRegularExpression('~about [\d.]+.EUR a month~u', $this->main());
        // What it uses is nobody's, and is seen.
        $this->open('/meter/why?team=unassigned&by=person&days=last+7+days');
        self::assertStringContainsString('ops_legacy', $this->main());
        $this->open('/meter/savings');
        self::assertStringContainsString('saved', $this->heading());
        $this->assertFitForEverybody(['/meter/savings']);
    }

    public function test_where_the_month_ends_and_who_passes_a_budget(): void
    {
        $this->signIn(self::OWNER);
        $this->open('/meter/usage');
        $this->click($this->link('Where the month will end'));
        self::assertStringContainsString('will be about', $this->heading());
        $this->find('#w-grows')->sendKeys('a lot');
        $this->click($this->button('Compute it'));
        self::assertStringContainsString('Growth is a percentage', $this->main());
        $this->find('#w-grows')->clear()->sendKeys('20');
        $this->click($this->button('Compute it'));
        self::assertStringContainsString('if the days that are left have 20% more', $this->main());
        self::assertStringContainsString('grows=20', $this->address());
        // One budget of the demo world is passed or will be, and nobody else is named.
        $this->open('/meter/budgets');
        self::assertMatchesRegularExpression('~^1 budget of \d+ (is|will be) passed: forecast_lab~', $this->heading());
        self::artisan('budget:check');
        $found = [];
        foreach (['budget-passed', 'budget-will-pass'] as $rule) {
            $this->open("/ledger/findings?rule={$rule}");
            $rows = $this->texts('main tbody tr');
            array_push($found, ...array_filter($rows, static fn (string $row): bool => str_contains($row, 'budget')));
        }
        self::assertCount(1, $found, implode("\n", $found));
        self::assertStringContainsString('forecast_lab', implode($found));
        foreach (['usage-step', 'usage-spike'] as $rule) {
            $this->open("/ledger/findings?rule={$rule}");
            foreach ($this->texts('main tbody tr') as $row) {
                self::assertStringContainsString('forecast_lab', $row, 'no healthy neighbour is accused');
            }
        }
        // A budget that is far too small is passed at once, and one of nothing ends it.
        $this->open('/meter/budgets');
        $set = function (string $amount): void {
            (new WebDriverSelect($this->find('#b-of')))->selectByValue('team:energy_desk');
            $this->find('#b-amount')->clear()->sendKeys($amount);
            $this->click($this->button('Set it'));
        };
        $set('1,5');
        self::assertStringContainsString('A budget is a number with a point', $this->main());
        $set('0.01');
        self::assertMatchesRegularExpression('~^(1|2) budgets? of \d+ (is|are) passed: energy_desk~', $this->heading());
        $this->click($this->link('energy_desk'));
        self::assertMatchesRegularExpression('~0\.01.EUR for .* spent, .*passed~us', $this->main());
        $this->open('/meter/budgets');
        $set('0');
        self::assertStringNotContainsString('energy_desk', $this->heading());
        $this->assertFitForEverybody(['/meter/forecast', '/meter/budgets']);
    }

    public function test_from_a_budget_to_a_limit_that_holds_and_is_lifted(): void
    {
        $this->signIn(self::OWNER);
        // What it will cost, and with more data.
        $this->open('/meter/forecast?measure=cost');
        self::assertMatchesRegularExpression('~^Cost will be about [\d.]+.*EUR~u', $this->heading());
        $this->find('#w-grows')->sendKeys('20');
        $this->click($this->button('Compute it'));
        self::assertStringContainsString('if the days that are left have 20% more', $this->main());
        self::assertStringContainsString('measure=cost', $this->address());
        // The budget that is passed leads to a limit of the same amount, which is tried before anything is held.
        self::artisan('budget:check');
        $this->open('/ledger/findings?rule=budget-passed');
        if (! str_contains($this->main(), 'budget of')) {
            $this->open('/ledger/findings?rule=budget-will-pass');
        }
        $this->click($this->link('budget of'));
        $this->click($this->link('Set a limit'));
        self::assertSame('team forecast_lab', $this->find('#l-of')->getAttribute('value'));
        self::assertNotSame('', $this->find('#l-amount')->getAttribute('value'));
        $this->click($this->button('Try it on the past'));
        self::assertMatchesRegularExpression('~^It would have held (nothing|about [\d\x{202F}]+ statements?) since ~u', $this->heading());
        self::assertStringContainsString('not switched on', $this->main());
        self::assertNotEmpty($this->texts('#limit-past text, figure svg text'));
        $this->button('Remove it')->click();
        $this->click($this->button('Remove the limit of team forecast_lab'));
        self::assertStringContainsString('is removed', $this->main());

        // The team that reads twice as much since a week: the limit that waits in the demo world would have held it, and only then.
        $this->click($this->link('team forecast_lab'));
        self::assertMatchesRegularExpression('~^It would have held about .* statements since .*, in 1 of [45] weeks$~u', $this->heading());

        // One of our own: the second statement of the day is refused with a sentence, until it is lifted.
        $this->open('/meter/limits');
        $this->find('#l-of')->sendKeys('person nobody.here');
        $this->find('#l-amount')->sendKeys('1');
        (new WebDriverSelect($this->find('#l-measure')))->selectByValue('executions');
        (new WebDriverSelect($this->find('#l-period')))->selectByValue('day');
        $this->click($this->button('Try it on the past'));
        self::assertStringContainsString('No person is known by the name nobody.here', $this->main());
        self::assertSame('1', $this->find('#l-amount')->getAttribute('value'), 'nothing typed is lost');
        $this->find('#l-of')->clear()->sendKeys('person marta');
        $this->find('#l-ask')->sendKeys('the platform team');
        $this->click($this->button('Try it on the past'));
        $limit = $this->address();
        $this->click($this->button('Switch it on'));
        self::assertStringContainsString('It is in force.', $this->main());
        $ask = function (): string {
            $this->open('/tune/workbench?cluster=wren&schema=field&sql='.rawurlencode('SELECT 1 AS one'));
            $this->click($this->button('Run'));
            $this->until('#bench-outcome .notice.bad, .outcome table');

            return $this->find('#bench-outcome')->getText();
        };
        $ask();
        self::assertMatchesRegularExpression(
            '~Held by a limit: person marta, 1 execution a day\. \d+ (is|are) used\. It holds until .* 00:00\. Ask the platform team; an '
                .'owner can lift it\.~',
            $ask(),
        );
        $this->click($this->link('Look at the limit'));
        self::assertSame(parse_url($limit, PHP_URL_PATH), parse_url($this->address(), PHP_URL_PATH));
        self::assertStringContainsString('statement was held', $this->heading());
        self::assertNotEmpty($this->driver()->findElements(WebDriverBy::cssSelector('svg .held')), 'it stands on the rail');
        $this->find('#l-until')->clear()->sendKeys('1 h');
        $this->find('#l-reason')->sendKeys('ok');
        $this->click($this->button('Lift it'));
        self::assertStringContainsString('Say why, in 3 to 500 letters', $this->main());
        $this->find('#l-reason')->clear()->sendKeys('The pallets leave at noon');
        $this->click($this->button('Lift it'));
        self::assertStringContainsString('Nothing is held until', $this->main());
        self::assertStringNotContainsString('Held by a limit', $ask());
        $this->open('/ledger');
        self::assertStringContainsString('lifted a limit', $this->main());
        $this->assertFitForEverybody([
            '/meter/limits', (string) parse_url($limit, PHP_URL_PATH), '/meter/limits/accounts', '/meter/allowances',
            '/meter/forecast?measure=cost',
        ]);
        $this->open((string) parse_url($limit, PHP_URL_PATH));
        $this->click($this->button('Switch it off'));
        self::assertStringContainsString('nothing is held', $this->main());
    }

    public function test_days_of_another_zone_agree_with_the_same_bill(): void
    {
        $this->signIn(self::OWNER);
        $this->open('/meter/bills/1');
        $said = $this->heading();
        $count = function (string $zone): void {
            $this->open('/meter/days');
            (new WebDriverSelect($this->find('#d-zone')))->selectByVisibleText($zone);
            $this->slowly($this->button('Change the time zone'));
            $this->eventually(fn (): bool => str_contains($this->main(), "by the clocks of {$zone}"), "days are those of {$zone}");
        };
        $count('America/New_York');
        $this->open('/meter/explore?rows=hour&columns=team&days=last+2+days');
        self::assertMatchesRegularExpression('~\(-0[45]:00\)~', $this->main());
        $this->open('/meter/bills/1');
        self::assertSame($said, $this->heading());
        $count('UTC');
        $this->open('/');
        // The first page draws what could be gained; a bar leads to its finding.
        self::assertNotEmpty($this->texts('#round-gains text, figure svg text'));
        $this->click($this->find('figure svg a'));
        self::assertMatchesRegularExpression('~/ledger/(findings|changes|proofs)/\d+~', $this->address());
    }

    public function test_a_viewer_of_one_team_is_shown_no_other(): void
    {
        $this->signIn(self::OWNER);
        $this->open('/meter/viewers');
        $this->find('input[name="all"]')->click();
        $this->find('input[value="energy_desk"]')->click();
        $this->click($this->button('Save'));
        self::assertStringContainsString('sees energy_desk only', $this->main());
        $this->nobodySignedIn();
        $this->signIn(self::VIEWER);
        self::assertSame([], array_intersect(['Tune', 'Guard', 'Ledger', 'Tend'], $this->texts('nav.spine a.entry')));
        $this->open('/');
        self::assertStringContainsString('/meter/usage', $this->address(), 'the Round is of all teams');
        foreach (['usage', 'why', 'explore', 'team', 'cost'] as $page) {
            $this->open("/meter/{$page}?days=last+7+days");
            self::assertStringContainsString('energy_desk', $this->main(), $page);
            self::assertDoesNotMatchRegularExpression('~forecast_lab|packhouse|agronomy|idle:~', $this->main(), $page);
        }
        foreach (['/meter/bills', '/meter/savings', '/tune/statements', '/ledger/findings', '/meter/team?team=boards'] as $page) {
            $this->open($page);
            self::assertStringContainsString('You see', $this->find('body')->getText(), $page);
        }
        $this->nobodySignedIn();
        $this->signIn(self::OWNER);
        $this->open('/meter/viewers');
        $this->find('input[name="all"]')->click();
        $this->click($this->button('Save'));
        self::assertStringContainsString('sees all teams', $this->main());
    }

    public function test_its_pages_are_fit_for_everybody(): void
    {
        $this->signIn(self::OWNER);
        $this->assertFitForEverybody([
            '/meter/usage', '/meter/why', '/meter/explore', '/meter/cost', '/meter/cost?by=statement', '/meter/prices', '/meter/bills',
            '/meter/bills/1', '/meter/viewers',
        ]);
    }
}

<?php

declare(strict_types=1);

namespace Tests\Browser;

use Facebook\WebDriver\Interactions\WebDriverActions;
use Facebook\WebDriver\WebDriverBy;
use Facebook\WebDriver\WebDriverKeys;

/**
 * The ways people go, wrong turns too.
 */
final class WalkTest extends BrowserTestCase
{
    private const OWNER = 'marta@brackenfold.example';

    private const ENGINEER = 'idris@brackenfold.example';

    private const VIEWER = 'joon@brackenfold.example';

    public function test_a_wrong_password_is_told_and_a_right_one_leads_to_the_statements(): void
    {
        $this->nobodySignedIn();
        $this->open('/tune/statements?window=last+7+days');
        self::assertSame('Sign in', $this->heading());
        $this->find('input[name=email]')->sendKeys(self::OWNER);
        $this->find('input[name=password]')->sendKeys('wrong');
        $this->click($this->find('main form button'));
        self::assertStringContainsString('No one signs in', $this->find('[role=alert]')->getText());
        $this->find('input[name=password]')->sendKeys('glasshouse-46');
        $this->click($this->find('main form button'));
        self::assertStringContainsString('window=last 7 days', urldecode($this->address()), 'back to where one wanted to go');
        self::assertMatchesRegularExpression(
            '~^\d+ of \d+ statements made \d+% of the load on Fernhill in the last 7 days~',
            $this->heading(),
        );
    }

    public function test_the_planted_troubles_stand_out_without_knowing_where_to_look(): void
    {
        $this->signIn(self::OWNER);
        $this->open('/tune/statements?cluster=fernhill');
        $this->find('.annotated li');
        $found = $this->texts('.annotated li');
        $one = static fn (string $pattern): array => array_values(
            array_filter($found, static fn (string $text): bool => preg_match($pattern, $text) === 1),
        );
        // Trouble 1, first of all.
        self::assertMatchesRegularExpression('~slower.*by a factor of [5-7].*INSERT INTO field.pick_summary~s', $found[0]);
        self::assertStringContainsString('since '.gmdate('D j M', time() - 11 * 86_400), $found[0]);
        // Trouble 2.
        self::assertCount(1, $one('~rare and heavy.*Ran 3 times.*field.climate_reading r, field.harvest_pick p~s'));
        self::assertCount(1, $one('~rare and heavy~'));
        // Trouble 5: five aggregates of these two tables and no other steady statement.
        self::assertCount(5, $one('~steady repetition.*every 5 min.*(climate_reading|meter_reading|SELECT)~s'));
        self::assertCount(5, $one('~steady repetition~'));
        // Trouble 10, and no other user is accused.
        self::assertCount(1, $one('~reads more.*up by (7|8|9|10|11)\d*%.*forecast_lab~s'));
        self::assertCount(1, $one('~reads less.*down by (2[5-9]|3\d|4[0-2])%.*energy_desk~s'));
        self::assertCount(2, $one('~reads (more|less)~'));
        $this->click($this->find('.annotated li a.what'));
        self::assertMatchesRegularExpression('~^Ran \d+ times~', $this->heading());
    }

    public function test_from_a_spike_on_the_rail_to_a_report_for_a_colleague(): void
    {
        $this->signIn(self::ENGINEER);
        $this->open('/tune/statements?cluster=fernhill&window=last+3+hours');
        // Drag over the first day of the rail.
        $rail = $this->find('[data-rail] svg');
        $width = $rail->getSize()->getWidth();
        $this->following(
            fn () => (new WebDriverActions($this->driver()))
                ->moveToElement($rail, (int) (-$width / 2 + ($width * 1) / 14), 10)
                ->clickAndHold()
                ->moveToElement($rail, (int) (-$width / 2 + ($width * 2) / 14), 10)
                ->release()
                ->perform(),
        );
        self::assertMatchesRegularExpression('~window=\d{4}-\d\d-\d\d~', $this->address());
        self::assertStringContainsString('between', $this->heading());
        // Rank, filter by words, by user.
        $this->click($this->find('th a[title="Sort by p95"]'));
        self::assertSame(
            'descending',
            $this->driver()->findElement(WebDriverBy::xpath('//th[a[@title="Sort by p95"]]'))->getAttribute('aria-sort'),
        );
        self::assertStringContainsString('by=p95', $this->address());
        $this->press('/');
        $this->driver()->getKeyboard()->sendKeys('climate_reading GROUP');
        // Nobody presses a button: the words act when no more are typed, and typing can go on.
        $this->eventually(
            fn (): bool => str_contains(urldecode($this->address()), 'words=climate_reading GROUP'),
            'the words are in the address',
        );
        self::assertSame('f-words', $this->driver()->switchTo()->activeElement()->getAttribute('id'));
        self::assertSame('climate_reading GROUP', $this->find('#f-words')->getAttribute('value'));
        foreach ($this->texts('td.statement > a') as $text) {
            // A long text is cut, and the word may stand behind the cut.
            self::assertMatchesRegularExpression('~climate_reading|…$~', $text);
        }
        $this->find('#f-user option[value=boards]')->click();
        $this->eventually(fn (): bool => str_contains($this->address(), 'user=boards'), 'the choice is in the address');
        self::assertStringContainsString('words=climate_reading GROUP', urldecode($this->address()), 'and the words stay');
        $this->driver()->navigate()->back();
        $this->eventually(fn (): bool => ! str_contains($this->address(), 'user=boards'), 'one step back');
        $this->eventually(fn (): bool => $this->find('#f-user')->getAttribute('value') === '', 'shows what was chosen before');
        self::assertSame('climate_reading GROUP', $this->find('#f-words')->getAttribute('value'));
        $this->driver()->navigate()->forward();
        $this->eventually(fn (): bool => $this->find('#f-user')->getAttribute('value') === 'boards', 'and forward again');
        // Open the first by keys alone, look at it, reveal, come back.
        $this->find('h1')->click();
        $this->press('j');
        $this->press("\n");
        self::assertMatchesRegularExpression('~^/tune/statements/[0-9a-f]{32}~', $this->address());
        self::assertStringContainsString('Literals and binds are hidden', $this->find('#samples')->getText());
        $this->click($this->find('#samples form button'));
        for ($i = 0; $i < 50 && ! str_contains($this->find('#samples')->getText(), 'Literals are shown'); $i++) {
            usleep(100_000);
        }
        self::assertStringContainsString('Literals are shown', $this->find('#samples')->getText());
        $this->click($this->link('Report without literals'));
        $report = $this->downloaded('statement-'.substr(basename(explode('?', $this->address())[0]), 0, 8).'.html');
        self::assertStringContainsString('<svg', $report);
        self::assertStringNotContainsString('<script', $report);
        self::assertDoesNotMatchRegularExpression('~(src|href)="?https?:~', $report);
        file_put_contents($file = $this->chrome()->downloads().'/offline.html', $report);
        $this->driver()->get("file://{$file}");
        self::assertMatchesRegularExpression(
            '~^Ran \d+ times~',
            str_replace("\u{202F}", '', $this->heading()),
            'it opens without the application',
        );
        $this->open('/tune/statements');
        $this->press('c');
        self::assertStringStartsWith('/tune/compare', $this->address());
        self::assertStringContainsString('Load on Fernhill went from', $this->heading());
        // Each share is of all that moved, with its sign: those of rows and others together are the share of the whole.
        $share = static fn (string $cell): int => (int) str_replace(['−', '+', '%'], ['-', '', ''], $cell);
        $foot = array_map($share, $this->texts('tfoot tr > :nth-child(4)'));
        $rows = array_map($share, $this->texts('tr[data-row] td:nth-child(4)'));
        $whole = array_pop($foot);
        self::assertNotSame([], $rows);
        self::assertEqualsWithDelta($whole, array_sum($rows) + array_sum($foot), 0.51 * (count($rows) + 2));
        self::assertNotSame([0], array_unique($rows));
        self::assertLessThanOrEqual(100, abs((int) $whole));
        $this->click($this->link('rose '));
        self::assertStringContainsString('movement=rose', $this->address());
        $this->press('l');
        $this->click($this->link('Acts'));
        self::assertStringContainsString('revealed literals', implode("\n", $this->texts('tbody tr')));
    }

    public function test_a_chart_is_drawn_at_the_width_there_is_and_read_by_pointer_and_keys(): void
    {
        $this->signIn(self::ENGINEER);
        $this->driver()->manage()->getLog('browser');
        $this->open('/tune/statements?cluster=fernhill&window=last+7+days');
        $box = $this->find('figure[data-plot] .scroll');
        $svg = $this->find('figure[data-plot] svg');
        $width = $box->getSize()->getWidth();
        self::assertStringStartsWith("0 0 {$width} ", (string) $svg->getAttribute('viewBox'));
        self::assertNotSame([], $this->driver()->findElements(WebDriverBy::cssSelector('figure[data-plot] path.area')));
        $this->driver()->executeScript('arguments[0].focus()', [$box]);
        $this->press(WebDriverKeys::HOME);
        $this->press(WebDriverKeys::ARROW_RIGHT);
        $said = $this->find('figure[data-plot] .reading-line')->getText();
        self::assertMatchesRegularExpression('~^\w{3} \d+ \w{3} .* in flight, from [\d\x{202f}\x{2009} ]+ executions~u', $said);
        // The same words stand in its table.
        $this->driver()->executeScript("document.querySelector('figure[data-plot] details.twin').open = true");
        $row = $this->texts('figure[data-plot] .twin tbody tr:nth-child(2) td');
        self::assertStringStartsWith("{$row[0]}: {$row[1]} in flight", $said);
        $this->driver()->executeScript("document.querySelector('figure[data-plot] details.twin').open = false");
        $this->following(fn () => $this->press(WebDriverKeys::ENTER));
        self::assertMatchesRegularExpression('~window=\d{4}-\d\d-\d\d~', $this->address());
        self::assertStringContainsString(preg_replace('~ \d\d:\d\d.*$~', '', $row[0]) ?? '', $this->heading());
        // Two thirds of the window by a drag.
        $svg = $this->find('figure[data-plot] svg');
        $before = $this->address();
        $this->following(
            fn () => (new WebDriverActions($this->driver()))
                ->moveToElement($svg, -(int) ($width / 4), 0)
                ->clickAndHold()
                ->moveToElement($svg, (int) ($width / 4), 0)
                ->release()
                ->perform(),
        );
        self::assertNotSame($before, $this->address());
        $severe = array_filter($this->driver()->manage()->getLog('browser'), static fn (array $one): bool => $one['level'] === 'SEVERE');
        self::assertSame([], $severe);
    }

    public function test_a_typed_window_that_is_none_is_explained_and_nothing_is_lost(): void
    {
        $this->signIn(self::ENGINEER);
        $this->open('/tune/statements?user=boards');
        $field = $this->find('#scope-window');
        // Written over, as somebody does who has selected what is there.
        $this->driver()->executeScript('arguments[0].select()', [$field]);
        $this->following(static fn () => $field->sendKeys("next tuesday\n"));
        self::assertStringContainsString('is not a window', $this->find('#scope-complaint')->getText());
        self::assertStringContainsString('user=boards', $this->address());
    }

    public function test_a_file_is_sent_its_bad_line_shown_and_its_statements_opened(): void
    {
        $this->signIn(self::ENGINEER);
        $at = gmdate('Y-m-d\TH:i:s\Z', time() - 7_200);
        file_put_contents(
            $file = sys_get_temp_dir().'/fulcrion-walk.jsonl',
            "{\"started_at\":\"{$at}\",\"duration_us\":9000000,\"sql\":\"SELECT walked FROM t WHERE a = "
                ."1\"}\n{\"started_at\":\"{$at}\",\"sql\":\"SELECT 1\"}\n",
        );
        $this->open('/tune/imports');
        $this->driver()->findElement(WebDriverBy::cssSelector('#cluster option[value=wren]'))->click();
        $this->find('#file')->sendKeys($file);
        $this->click($this->find('form.filters button.btn-primary'));
        for ($i = 0; $i < 100 && ! str_contains($this->address(), '/tune/imports/'); $i++) {
            usleep(100_000);
        }
        self::assertStringContainsString('1 executions were taken', $this->heading());
        self::assertStringContainsString('duration_us', implode("\n", $this->texts('tbody tr')));
        $this->click($this->link('Look at its statements'));
        self::assertStringContainsString('SELECT walked FROM t', implode("\n", $this->texts('td.statement > a')));
        unlink($file);
    }

    public function test_a_server_is_added_found_wanting_and_removed(): void
    {
        $this->signIn(self::ENGINEER);
        $this->open('/tend/clusters/new');
        foreach (['name' => 'Alder', 'host' => '127.0.0.1', 'username' => 'nobody', 'secret' => 'no such password'] as $name => $value) {
            $this->find("#{$name}")->sendKeys($value);
        }
        $this->find('#port')->clear();
        $this->find('#port')->sendKeys('1');
        $this->click($this->find('form.form-grid .btn-primary'));
        $this->click($this->driver()->findElement(WebDriverBy::xpath('//button[contains(., "Check the connection")]')));
        self::assertStringContainsString('cannot be reached', $this->find('.annotated')->getText());
        self::assertStringNotContainsString('no such password', (string) $this->driver()->getPageSource());
        $this->find('#confirm')->sendKeys('Elder');
        $this->click($this->find('.btn-danger'));
        self::assertStringContainsString('Nothing was removed', $this->find('[role=alert]')->getText());
        $this->find('#confirm')->sendKeys('Alder');
        $this->click($this->find('.btn-danger'));
        self::assertStringStartsWith('3 clusters', $this->heading());
    }

    public function test_who_may_not_sees_no_way_in_and_a_page_that_says_so(): void
    {
        $this->signIn(self::VIEWER);
        $this->open('/people');
        self::assertSame('This is not yours to do', $this->heading());
        $this->open('/tend/clusters');
        self::assertSame([], $this->texts('a[href="/tend/clusters/new"]'));
        $this->open('/tune/imports');
        self::assertSame([], $this->texts('#file'));
    }

    public function test_no_page_has_an_accessibility_violation_or_an_error_in_the_console(): void
    {
        $this->signIn(self::OWNER);
        self::artisan('telemetry:collect', 'own-store');
        self::artisan('telemetry:collect', 'own-store');
        $this->open('/tune/statements?cluster=fernhill&window=last+28+days');
        $link = (string) $this->find('td.statement > a')->getAttribute('href');
        $statement = parse_url($link, PHP_URL_PATH).'?'.parse_url($link, PHP_URL_QUERY);
        $this->open('/tune/imports');
        $import = (string) parse_url((string) $this->find('td a')->getAttribute('href'), PHP_URL_PATH);
        $this->open('/tune/plans?cluster=fernhill');
        $plan = (string) parse_url((string) $this->find('td.statement a')->getAttribute('href'), PHP_URL_PATH);
        $this->open($plan);
        $pair = parse_url((string) $this->link('Beside the plan')->getAttribute('href'));
        $this->driver()->manage()->getLog('browser');
        $pages = [
            '/tune/statements?cluster=fernhill&window=last+28+days',
            '/tune/statements?cluster=fernhill&window=2020-01-01',
            '/tune/statements?cluster=own-store',
            '/tend/state?cluster=own-store',
            '/tend/hosts',
            $statement,
            '/tune/compare?cluster=fernhill&window=last+7+days',
            '/tune/running',
            '/tune/workbench?cluster=fernhill',
            '/tune/plans',
            $plan,
            ($pair['path'] ?? '').'?'.($pair['query'] ?? ''),
            '/tune/plans?words=nothing',
            '/tune/catalog?cluster=fernhill',
            '/tune/catalog/fernhill/field/climate_reading',
            '/tune/imports',
            $import,
            '/tend/clusters',
            '/tend/clusters/new',
            '/tend/clusters/own-store',
            '/ledger',
            '/people',
            '/account',
            '/nowhere',
        ];
        $this->assertFitForEverybody($pages);
        $errors = array_filter(
            $this->driver()->manage()->getLog('browser'),
            static fn (array $entry): bool => $entry['level'] === 'SEVERE' && ! str_contains($entry['message'], '/nowhere'),
        );
        self::assertSame([], array_values($errors));
    }
}

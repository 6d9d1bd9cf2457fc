<?php

declare(strict_types=1);

namespace Tests\Browser;

use Facebook\WebDriver\Exception\ElementNotInteractableException;
use Facebook\WebDriver\Interactions\WebDriverActions;
use Facebook\WebDriver\WebDriverBy;

/**
 * From the list of jobs to a number of workers, and from the decision to its proof.
 */
final class JobWalkTest extends BrowserTestCase
{
    private const ENGINEER = 'idris@brackenfold.example';

    private const VIEWER = 'joon@brackenfold.example';

    public function test_wasteful_late_and_skewed_jobs_stand_on_the_list_without_knowing_where_to_look(): void
    {
        $this->signIn(self::VIEWER);
        $this->open('/tune/jobs');
        self::assertMatchesRegularExpression(
            '~^5 of 6 jobs need attention; better numbers of workers would have saved [\d.]+ EUR~u',
            str_replace("\u{a0}", ' ', $this->heading()),
        );
        $rows = [];
        foreach ($this->driver()->findElements(WebDriverBy::cssSelector('.jobs-table tbody tr')) as $row) {
            $rows[$row->findElement(WebDriverBy::tagName('a'))->getText()] = str_replace("\u{a0}", ' ', $row->getText());
        }
        self::assertSame('climate-fold', array_key_first($rows), 'what saves most money comes first');
        self::assertMatchesRegularExpression('~\d+% of [\d.]+ EUR a night would be saved with \d+ workers~', $rows['climate-fold']);
        self::assertStringContainsString('Late by', $rows['pick-summary']);
        self::assertMatchesRegularExpression('~[Tt]akes 1\.\d+ times the worker time for the same input since~', $rows['pick-summary']);
        self::assertStringContainsString('The largest task of group by buyer reads', $rows['buyer-scorecards']);
        self::assertStringContainsString('of each task of sample columns is overhead', $rows['label-scan']);
        self::assertStringContainsString('of them on host07', $rows['price-match']);
        self::assertStringEndsWith('nothing', trim($rows['meter-settlement']), 'the healthy neighbour is not accused');
        // A steward's round knows of it too.
        $this->open('/');
        self::assertStringContainsString('pick-summary: late by', $this->find('main')->getText());
        self::assertSame([], $this->driver()->findElements(WebDriverBy::xpath('//main//button[contains(., "Pin")]')));
    }

    public function test_a_number_is_dragged_pinned_and_proved_by_the_next_run(): void
    {
        $this->signIn(self::ENGINEER);
        $this->open('/tune/jobs');
        $this->click($this->link('climate-fold'));
        self::assertMatchesRegularExpression('~climate-fold took .* on 960 workers; \d+% of the .* it cost was idle~', $this->heading());
        $this->until('[data-hand] [role=slider]');
        $this->until('#job-forecast[data-distribution]');
        $figures = fn (): array => array_map(fn (string $name): string => $this->find("[data-hand-{$name}]")->getText(), [
            'time',
            'cost',
            'idle',
            'ends',
        ]);
        $before = $figures();
        $grip = $this->find('[data-hand] [role=slider] rect');
        $this->driver()->executeScript('arguments[0].scrollIntoView({block: "center"})', [$grip]);
        (new WebDriverActions($this->driver()))
            ->moveToElement($grip)
            ->clickAndHold()
            ->moveByOffset(0, -30)
            ->moveByOffset(0, -20)
            ->release()
            ->perform();
        $dragged = (int) $this->find('[data-hand-typed]')->getAttribute('value');
        self::assertGreaterThan(150, $dragged);
        self::assertSame((string) $dragged, $this->find('[data-hand-pin]')->getAttribute('value'));
        $after = $figures();
        foreach ($before as $i => $text) {
            self::assertNotSame($text, $after[$i]);
        }
        self::assertMatchesRegularExpression('~take \d+ (min|s)~', $after[0]);
        self::assertMatchesRegularExpression('~ends at \d\d:\d\d:\d\d, in time~', $after[3]);
        self::assertStringContainsString("workers={$dragged}", $this->address());
        // By keyboard and by typing; when it rests, the server has scheduled it.
        // What the server says may put the figure in place again meanwhile, and takes the focus along.
        $this->eventually(function () use ($dragged): bool {
            $this->driver()->executeScript('arguments[0].focus()', [$this->find('[data-hand] [role=slider]')]);
            try {
                $this->driver()->getKeyboard()->sendKeys("\u{E015}");
            } catch (ElementNotInteractableException) {
                return false;
            }

            return (int) $this->find('[data-hand-typed]')->getAttribute('value') < $dragged;
        }, 'an arrow takes a worker away');
        self::assertSame((string) ($dragged - 1), $this->find('[data-hand-typed]')->getAttribute('value'));
        $this->driver()->executeScript(
            "const field = document.querySelector('[data-hand-typed]'); field.value = '240'; field.dispatchEvent(new Event('input'))",
        );
        for ($i = 0; $i < 50 && ! str_contains($this->find('[data-hand-how]')->getText(), 'modelled, scheduled'); $i++) {
            usleep(100_000);
        }
        self::assertSame('(modelled, scheduled)', $this->find('[data-hand-how]')->getText());
        self::assertMatchesRegularExpression('~chance of \d+%~', $this->find('[data-hand-chance]')->getText());
        $said = $this->find('[data-hand-time]')->getText();
        // A reason is asked for; then the decision is a change of the ledger.
        $this->find('#pin-reason')->sendKeys('the rest idles');
        $this->click($this->button('Pin the decision'));
        self::assertStringContainsString('The next run gets 240 workers', $this->find('.notice')->getText());
        $this->slowly($this->button('Run it now with 240 workers'));
        self::assertStringContainsString('on 240 workers', $this->heading());
        $this->click($this->link('proved by the run after it'));
        self::assertStringContainsString('Predicted '.substr($said, 5), $this->heading());
        self::assertStringContainsString('the prediction held', $this->find('.facts')->getText());
        self::assertStringContainsString('the rest idles', $this->find('main')->getText());
        $this->click($this->link('change'));
        self::assertStringContainsString('Proof, from the run after it', $this->find('main')->getText());
        $this->click($this->button('Undo'));
        $this->open('/tune/jobs/of/fernhill/climate-fold');
        $this->button('Run it now with 960 workers');
    }

    public function test_twelve_thousand_tasks_are_replayed_and_every_page_fits_everybody(): void
    {
        $this->signIn(self::ENGINEER);
        $this->open('/tune/jobs/of/fernhill/climate-fold');
        $page = parse_url($this->address(), PHP_URL_PATH);
        for ($i = 0; $i < 100 && $this->find('[data-score-line]')->getText() === ''; $i++) {
            usleep(100_000);
        }
        self::assertStringContainsString(
            '12 000 of 12 000 tasks done',
            preg_replace('~\s~u', ' ', $this->find('[data-score-line]')->getText()) ?? '',
        );
        $this->find('[data-score-play]')->click();
        self::assertSame('Pause', $this->find('[data-score-play]')->getText());
        for (
            $i = 0;
            $i < 100 && (int) $this->driver()->executeScript("return document.querySelector('[data-score-scrub]').value") < 40;
            $i++
        ) {
            usleep(100_000);
        }
        $line = $this->find('[data-score-line]')->getText();
        $this->find('[data-score-play]')->click();
        // How smoothly is measured by ./fulcrion bench job-replay.
        self::assertGreaterThan(0, (float) $this->find('[data-score]')->getAttribute('data-frames-per-second'));
        self::assertMatchesRegularExpression('~: \d+ of \d+ workers at work, [\d\s]+ of 12\s000 tasks done~u', $line);
        // Scrubbed back to the start nothing is done; a stave taken in hand says what it waits for.
        $canvas = $this->find('[data-score-canvas]');
        $canvas->sendKeys("\u{E011}");
        self::assertMatchesRegularExpression('~: 0 of \d+ workers at work, 0 of~', $this->find('[data-score-line]')->getText());
        $canvas->sendKeys("\u{E015}");
        self::assertStringContainsString('read temperature waits for no other stage', $this->find('[data-score-line]')->getText());
        $canvas->sendKeys("\u{E015}");
        self::assertStringContainsString('clean temperature waits for read temperature', $this->find('[data-score-line]')->getText());
        // Reckoned for what is asked.
        $this->until('#elastic-within');
        $this->eventually(function (): bool {
            $field = $this->find('#elastic-within');
            $field->clear();
            $field->sendKeys('1');
            $this->button('Look for it')->click();

            return true;
        }, 'The minutes can be asked for');
        $this->eventually(
            fn (): bool => str_contains($this->find('#job-elastic')->getText(), 'No number of workers ends within 60 s'),
            'No number of workers is found',
        );
        $this->assertFitForEverybody(['/tune/jobs', (string) $page, "{$page}/stages/0", "{$page}/compare"]);
        // A record that cannot be read says why, and is forgotten.
        $path = tempnam(sys_get_temp_dir(), 'job').'.json';
        file_put_contents($path, '{"name":"wrong","tasks":[{"id":"a","after":["b"]},{"id":"b","after":["a"]}]}');
        $this->open('/tune/jobs');
        $this->find('#job-file')->sendKeys($path);
        $this->slowly($this->button('Read it'));
        unlink($path);
        self::assertStringContainsString('in a circle: ', $this->find('main')->getText());
        $this->click($this->button('Forget it'));
        self::assertSame('/tune/jobs', parse_url($this->address(), PHP_URL_PATH));
    }
}

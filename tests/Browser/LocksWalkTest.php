<?php

declare(strict_types=1);

namespace Tests\Browser;

use Facebook\WebDriver\Remote\RemoteWebElement;
use Facebook\WebDriver\WebDriverBy;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Tools\Live\PrivateServer;
use mysqli;
use mysqli_result;
use ZipArchive;

/**
 * Sessions that hold each other up on the own store, and tables taken away.
 */
final class LocksWalkTest extends BrowserTestCase
{
    private const ENGINEER = 'idris@brackenfold.example';

    private const VIEWER = 'joon@brackenfold.example';

    /** @var list<mysqli> */
    private array $sessions = [];

    protected function tearDown(): void
    {
        array_map(static fn (mysqli $session): bool => $session->close(), $this->sessions);
        $this->sessions = [];
        parent::tearDown();
    }

    public function test_who_holds_others_up_is_seen_and_ended_after_a_question(): void
    {
        $idle = $this->session();
        $idle->query('CREATE TABLE IF NOT EXISTS stool (id INT PRIMARY KEY, height INT) ENGINE=InnoDB');
        $idle->query('REPLACE INTO stool VALUES (1, 40), (2, 60)');
        $idle->query('BEGIN');
        $idle->query('UPDATE stool SET height = 4242 WHERE id = 1');
        $waiting = $this->session();
        $waiting->query('UPDATE stool SET height = height + 1 WHERE id = 1', MYSQLI_ASYNC);

        $this->signIn(self::VIEWER);
        $this->open('/tune/locks?cluster=own-store');
        $this->eventually(
            fn (): bool => str_contains($this->heading(), 'One session of Own store waits behind session '.$idle->thread_id),
            'who waits for whom, without loading the page again',
        );
        self::assertStringContainsString('UPDATE stool SET height = ?', $this->find('.chain')->getText());
        self::assertStringNotContainsString('4242', $this->find('#content')->getText());
        self::assertSame([], $this->driver()->findElements(WebDriverBy::cssSelector('.chain form')));

        $this->signIn(self::ENGINEER);
        $this->open('/tune/locks?cluster=own-store');
        self::assertStringContainsString("session {$idle->thread_id}", $this->heading());
        $button = $this->find('.waits > li > .session form button');
        self::assertStringContainsString('End the session', $button->getText());
        $button->click();
        // The page reads itself again every three seconds, and leaves alone what is being asked.
        usleep(3_600_000);
        self::assertSame('End it and roll back its work?', $button->getText());
        $this->click($button);
        self::assertStringContainsString("Session {$idle->thread_id} is ended", $this->find('[role=status]')->getText());
        $this->eventually(
            fn (): bool => str_contains($this->heading(), 'Nobody waits for a lock on Own store'),
            'nobody is held up any more',
        );
        self::assertNotFalse($waiting->reap_async_query());
        $height = $waiting->query('SELECT height FROM stool WHERE id = 1');
        self::assertInstanceOf(mysqli_result::class, $height);
        self::assertSame(['41'], $height->fetch_row(), 'its work was taken back');
        $waiting->query('DROP TABLE stool');
        $this->assertFitForEverybody(['/tune/locks?cluster=own-store']);
    }

    public function test_a_table_is_taken_away_as_a_spreadsheet_that_reckons(): void
    {
        $this->signIn(self::ENGINEER);
        $this->open('/tune/layout?cluster=fernhill');
        $tables = $this->driver()->findElements(WebDriverBy::cssSelector('table[data-export]'));
        $table = array_values(array_filter($tables, static fn (RemoteWebElement $one): bool => $one->isDisplayed()))[0];
        $name = (string) $table->getAttribute('data-export');
        $this->find("button[aria-label='XLSX of {$name}']")->click();
        $file = trim((string) preg_replace('~\W+~', '-', strtolower($name)), '-').'.xlsx';
        $this->downloaded($file);
        $zip = new ZipArchive;
        self::assertTrue($zip->open($this->chrome()->downloads()."/{$file}"));
        $sheet = simplexml_load_string((string) $zip->getFromName('xl/worksheets/sheet1.xml'));
        self::assertNotFalse($sheet);
        $rows = $sheet->sheetData->row;
        self::assertCount(count($table->findElements(WebDriverBy::cssSelector('tr'))), $rows);
        $shown = $this->texts("table[data-export='{$name}'] tbody tr:first-child td");
        $numbers = 0;
        foreach ($rows[1]->c as $cell) {
            if ((string) $cell['t'] === 'n' || ((string) $cell['t'] === '' && isset($cell->v))) {
                $column = ord(((string) $cell['r'])[0]) - ord('A');
                $value = (float) $cell->v;
                $asShown = [Quantity::count($value), Quantity::bytes($value), Quantity::duration($value * 1e6), Quantity::percent($value)];
                self::assertContains($shown[$column], $asShown, "column {$column}");
                $numbers++;
            }
        }
        self::assertGreaterThan(0, $numbers);
    }

    private function session(): mysqli
    {
        return $this->sessions[] = PrivateServer::login(self::root().'/var/db/db.sock', self::schema());
    }
}

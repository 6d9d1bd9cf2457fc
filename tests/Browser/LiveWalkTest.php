<?php

declare(strict_types=1);

namespace Tests\Browser;

use Facebook\WebDriver\WebDriverBy;
use Fulcrion\Tools\Live\OrderWorld;
use Fulcrion\Tools\Live\PrivateServer;
use Fulcrion\Tools\Live\Troubles;

/**
 * A real server with ten troubles in it, which somebody finds who opens the Round and knows nothing of them.
 */
final class LiveWalkTest extends BrowserTestCase
{
    private const OWNER = 'marta@brackenfold.example';

    private const ENGINEER = 'idris@brackenfold.example';

    private static ?PrivateServer $server = null;

    private int $lookedUs = 0;

    public static function tearDownAfterClass(): void
    {
        self::$server?->closeSessions();
        self::$server?->remove();
        self::$server = null;
        parent::tearDownAfterClass();
    }

    public function test_ten_troubles_are_found_from_the_round_and_an_index_is_proved(): void
    {
        $server = self::$server = PrivateServer::start(
            '--performance-schema=ON',
            '--performance-schema-consumer-events-statements-current=ON',
            '--performance-schema-consumer-events-statements-history-long=ON',
            '--performance-schema-instrument=wait/lock/metadata/sql/mdl=ON',
            '--innodb-buffer-pool-size=128M',
        );
        $troubles = new Troubles($server);
        $troubles->prepare(20_000);

        $this->signIn(self::OWNER);
        $this->open('/tend/clusters/new');
        $this->fill('#name', 'Orchard shop');
        $this->fill('#host', '127.0.0.1');
        $this->fill('#port', (string) $server->port);
        $this->fill('#username', 'watcher');
        $this->fill('#secret', 'glasshouse');
        $this->click($this->find('#name')->findElement(WebDriverBy::xpath('ancestor::form//button')));
        // Somebody looks at the Round in the morning, and again when something is wrong.
        $this->signIn(self::ENGINEER);
        $this->open('/');
        $this->lookedUs = (int) (microtime(true) * 1e6);
        $this->look();
        $troubles->peace();
        $this->look();
        $calmSince = microtime(true);
        foreach (array_keys(Troubles::RULES) as $trouble) {
            if ($trouble === 'lock contention') {
                // It is told when somebody has waited for ten seconds; the others are planted meanwhile.
                $troubles->plant($trouble);
                $heldSince = microtime(true);

                continue;
            }
            if ($trouble === 'outage and restart') {
                usleep((int) max(0, 1e6 * (10.5 - (microtime(true) - ($heldSince ?? 0.0)))));
                $this->look();
                $this->later();
                $this->onTheRound('/, holds up another session/', 'lock contention');
            }
            if ($trouble === 'a changed plan') {
                // Nobody asks for the plan of a statement more often than every 15 s.
                usleep((int) max(0, 1e6 * (16 - (microtime(true) - $calmSince))));
            }
            $troubles->plant($trouble);
            $this->look();
        }
        $this->later();
        foreach (
            [
                'join without an index' => '/without an index/',
                'deadlock' => '/^A deadlock on depot\.crate/',
                'temporary tables on disk' => '/to disk in each run/',
                'a lookup for each row' => '/\(N\+1\), 60 times after each/',
                'errors' => '/^Always fails, with “error 1062/',
                'a changed plan' => '/^Reads .*orders as a whole, which it looked up by by_customer before/',
                'a needless index' => '/^The index by_state of farmshop\.orders is there for nothing/',
                'outage and restart' => '/^Orchard shop was started again/',
                'a renamed schema' => '/depot\.crate is not there.*yard has a table of that name/',
            ] as $trouble => $pattern
        ) {
            $this->onTheRound($pattern, $trouble);
        }
        // From a row to its evidence: the plan that changed, and what was done beside it.
        $this->open('/');
        $this->click($this->link('which it looked up by by_customer before'));
        self::assertStringContainsString('DROP INDEX by_customer ON orders', $this->find('#content')->getText());
        $this->assertFitForEverybody([$this->address()]);
        $this->anIndexIsProved($troubles, $server);
    }

    private function anIndexIsProved(Troubles $troubles, PrivateServer $server): void
    {
        $outside = static function () use ($server): float {
            $pdo = $server->pdo();
            $pdo->exec('USE '.OrderWorld::SCHEMA);
            $us = INF;
            for ($run = 0; $run < 5; $run++) {
                $began = hrtime(true);
                $pdo->query(Troubles::JOIN)->fetchAll();
                $us = min($us, (hrtime(true) - $began) / 1e3);
            }

            return $us;
        };
        $before = $outside();
        $this->open('/tune/indexes?cluster=orchard-shop');
        $row = $this->driver()->findElement(WebDriverBy::xpath("//tr[contains(., 'order_lines') and contains(., 'order_id')]"));
        $this->click($row->findElement(WebDriverBy::cssSelector('form button')));
        $this->click($this->button('Rehearse'));
        $this->eventually(fn (): bool => str_contains($this->find('#content')->getText(), 'rehearsed'), 'it is rehearsed');
        $this->click($this->button('Approve'));
        $this->click($this->button('Apply'));
        $this->eventually(fn (): bool => str_contains($this->find('#content')->getText(), 'applied'), 'it is applied');
        $after = $outside();
        self::assertGreaterThan(5, $before / $after, 'faster by a measurement of our own');
        $this->click($this->find('#content h2 + p a[href*="/ledger/proofs/"]'));
        $sentence = $this->heading();
        self::assertSame(1, preg_match('~took ([\d.]+) (µs|ms|s) and now takes? ([\d.]+) (µs|ms|s)~u', $sentence, $match), $sentence);
        $units = ['µs' => 1, 'ms' => 1e3, 's' => 1e6];
        $told = ((float) $match[1] * $units[$match[2]]) / ((float) $match[3] * $units[$match[4]]);
        // Beside what starting a statement and fetching its rows takes here and there.
        self::assertGreaterThan(0.1 * $before / $after, $told, $sentence);
        self::assertLessThan(10 * $before / $after, $told, $sentence);
        self::assertStringContainsString('Orchard shop', $this->find('#content')->getText());
        $this->aRemovedClusterKeepsItsProofs($this->address());
    }

    private function aRemovedClusterKeepsItsProofs(string $proof): void
    {
        $this->signIn(self::OWNER);
        $this->open('/tend/clusters/orchard-shop');
        $this->fill('#confirm', 'Orchard shop');
        $this->click($this->find('#confirm')->findElement(WebDriverBy::xpath('ancestor::form//button')));
        self::assertStringContainsString('3 clusters watched', $this->heading());
        $this->open((string) parse_url($proof, PHP_URL_PATH));
        self::assertStringContainsString('Orchard shop', $this->find('#content')->getText());
        $this->assertFitForEverybody([(string) parse_url($proof, PHP_URL_PATH)]);
    }

    /** As if half an hour had gone by since the last look at the Round. */
    private function later(): void
    {
        $store = PrivateServer::login(self::root().'/var/db/db.sock', self::schema());
        $store->query("UPDATE overview_visits SET before_us = {$this->lookedUs}");
        $store->close();
    }

    private function fill(string $selector, string $text): void
    {
        $this->find($selector)->clear();
        $this->find($selector)->sendKeys($text);
    }

    /** What the schedule does every few seconds. */
    private function look(): void
    {
        self::artisan('telemetry:collect', 'orchard-shop');
        self::artisan('sessions:watch', 'orchard-shop');
        self::artisan('diagnostics:check', 'orchard-shop');
        self::artisan('indexes:audit', 'orchard-shop');
    }

    private function onTheRound(string $pattern, string $trouble): void
    {
        $this->open('/');
        $rows = $this->texts('.round .told-link');
        self::assertNotSame([], preg_grep($pattern, $rows), "{$trouble}: ".implode("\n", $rows));
    }
}

<?php

declare(strict_types=1);

namespace Tests\Browser;

use Facebook\WebDriver\Exception\NoSuchElementException;
use Facebook\WebDriver\Exception\StaleElementReferenceException;
use Facebook\WebDriver\Exception\WebDriverException;
use Facebook\WebDriver\Remote\RemoteWebDriver;
use Facebook\WebDriver\Remote\RemoteWebElement;
use Facebook\WebDriver\WebDriverBy;
use Facebook\WebDriver\WebDriverDimension;
use Facebook\WebDriver\WebDriverKeys;
use Fulcrion\Tools\Demo\Team;
use Fulcrion\Tools\WebServer;
use PHPUnit\Framework\TestCase;
use RuntimeException;

/**
 * The whole application with its demo in a schema and a web server of its own, seen through a real browser.
 */
abstract class BrowserTestCase extends TestCase
{
    /** A page that does not begin to leave within so many milliseconds stays. */
    private const PATIENCE_MS = 400;

    private const ROWS_LOOKED_AT = 12;

    private static ?Chrome $chrome = null;

    private static string $base = '';

    private static ?WebServer $server = null;

    private static string $signedInAs = '';

    public static function setUpBeforeClass(): void
    {
        if (self::$chrome !== null) {
            return;
        }
        $copy = new DemoCopy(self::root(), self::environment());
        if (self::half() === 'other') {
            self::artisan('db:wipe', '--force');
            $copy->take(self::folders());
        } else {
            try {
                self::loadDemo();
                if (self::half() === 'first') {
                    $copy->give(self::folders());
                }
            } catch (RuntimeException $error) {
                if (self::half() === 'first') {
                    $copy->failed($error->getMessage());
                }
                throw $error;
            }
        }
        self::$server = WebServer::start(self::environment(), 3);
        self::$base = self::$server->base;
        self::$chrome = Chrome::start();
        register_shutdown_function(static function (): void {
            self::$chrome?->stop();
            self::$server?->stop();
        });
    }

    private static function loadDemo(): void
    {
        self::artisan('migrate:fresh', '--force');
        self::artisan('estate:install', '--without-owner');
        exec('rm -rf '.escapeshellarg(self::environment()['FULCRION_PRACTICE']).' '.escapeshellarg(self::environment()['FULCRION_LAKE']));
        self::artisan('demo:load', '--rows=0.05', '--nights=16');
    }

    /** Two processes share the walks, each with a demo of its own: the first one loads it, the other one takes a copy. */
    private static function half(): string
    {
        return (string) getenv('FULCRION_WALKS');
    }

    /**
     * @return list<string> what the demo writes beside its schema
     */
    private static function folders(): array
    {
        return [self::environment()['FULCRION_PRACTICE'], self::root().'/var/'.self::environment()['FULCRION_STORAGE'].'/app'];
    }

    protected static function schema(): string
    {
        return self::environment()['DB_DATABASE'];
    }

    protected static function artisan(string ...$arguments): string
    {
        $process = proc_open(
            [PHP_BINARY, '-d', 'opcache.enable_cli=1', '-d', 'opcache.jit=tracing', '-d', 'opcache.jit_buffer_size=64M', '-d',
                'memory_limit=512M', self::root().'/artisan', ...array_values($arguments)],
            [['file', '/dev/null', 'r'], ['pipe', 'w'], ['pipe', 'w']],
            $pipes,
            self::root(),
            self::environment(),
        );
        assert($process !== false);
        $output = stream_get_contents($pipes[1]).stream_get_contents($pipes[2]);
        if (proc_close($process) !== 0) {
            throw new RuntimeException("artisan {$arguments[0]} failed: {$output}");
        }

        return $output;
    }

    protected function signIn(string $email): void
    {
        if (self::$signedInAs === $email) {
            return;
        }
        $this->driver()->manage()->deleteAllCookies();
        $this->open('/sign-in');
        $this->find('input[name=email]')->sendKeys($email);
        $this->find('input[name=password]')->sendKeys(Team::PASSWORD);
        $this->click($this->find('main form button'));
        self::$signedInAs = $email;
    }

    protected function nobodySignedIn(): void
    {
        $this->driver()->manage()->deleteAllCookies();
        self::$signedInAs = '';
    }

    protected function open(string $address): void
    {
        $this->chrome()->open(self::$base.$address);
    }

    protected function find(string $selector): RemoteWebElement
    {
        return $this->sooner(WebDriverBy::cssSelector($selector));
    }

    protected function link(string $text): RemoteWebElement
    {
        return $this->sooner(WebDriverBy::partialLinkText($text));
    }

    /** What a page that is still on its way will show: beside other tests it may take its time. */
    private function sooner(WebDriverBy $by): RemoteWebElement
    {
        for ($i = 0; ; $i++) {
            try {
                return $this->driver()->findElement($by);
            } catch (NoSuchElementException $missing) {
                if ($i === 100) {
                    throw $missing;
                }
                usleep(100_000);
            }
        }
    }

    /** @return list<string> */
    protected function texts(string $selector): array
    {
        return array_map(
            static fn (RemoteWebElement $element): string => $element->getText(),
            array_values($this->driver()->findElements(WebDriverBy::cssSelector($selector))),
        );
    }

    protected function press(string $key): void
    {
        $this->following(fn () => $this->driver()->getKeyboard()->sendKeys($key));
    }

    protected function click(RemoteWebElement $element): void
    {
        $this->driver()->executeScript('arguments[0].scrollIntoView({block: "center"})', [$element]);
        $this->following($element->click(...));
    }

    protected function button(string $text): RemoteWebElement
    {
        $found = $this->driver()->findElements(WebDriverBy::xpath("//main//button[contains(normalize-space(.), '{$text}')]"));
        self::assertNotEmpty($found, "a button saying '{$text}'");

        return array_values(array_filter($found, static fn (RemoteWebElement $each): bool => $each->isDisplayed()))[0] ?? $found[0];
    }

    /** Clicks what takes its time: the page that comes of it is waited for. */
    protected function slowly(RemoteWebElement $element): void
    {
        $page = $this->page();
        $this->driver()->executeScript('arguments[0].scrollIntoView({block: "center"}); setTimeout(() => arguments[0].click(), 0)', [
            $element,
        ]);
        for ($i = 0; $i < 900; $i++) {
            usleep(100_000);
            if (! in_array($this->page(), ['', $page], true)) {
                break;
            }
        }
        $this->chrome()->settle();
    }

    /**
     * Tries until it is so: a part of the page that is put in place meanwhile takes along what was found in it.
     *
     * @param  callable(): bool  $so
     */
    protected function eventually(callable $so, string $what): void
    {
        for ($i = 0; $i < 300; $i++) {
            try {
                if ($so()) {
                    return;
                }
            } catch (StaleElementReferenceException|NoSuchElementException) {
                // Looked for again.
            }
            usleep(100_000);
        }
        self::fail("{$what}, after 30 s");
    }

    protected function until(string $selector): void
    {
        for ($i = 0; $i < 300 && $this->driver()->findElements(WebDriverBy::cssSelector($selector)) === []; $i++) {
            usleep(100_000);
        }
        $this->find($selector);
    }

    /**
     * Each page is loaded once and looked at twice: wide by day, narrow by night.
     *
     * @param  list<string>  $pages
     */
    protected function assertFitForEverybody(array $pages): void
    {
        $axe = (string) file_get_contents(self::root().'/node_modules/axe-core/axe.min.js');
        foreach ($pages as $page) {
            $this->open($page);
            foreach ([390, 1280] as $width) {
                $this->resize($width);
                $this->assertScrollsNoFurther($page, $width);
            }
            // Rows of a table are written by the same lines: of long ones the first tell all there is to be told.
            $this->driver()->executeScript(
                'document.querySelectorAll("tbody tr:nth-child(n + '.(self::ROWS_LOOKED_AT + 1).')").forEach((row) => row.remove())',
            );
            $this->driver()->executeScript($axe);
            // What a narrow page at night can have wrong that a wide one by day has not.
            $narrow = 'runOnly: {type: "rule", values: ["color-contrast", "scrollable-region-focusable", "meta-viewport"]}, ';
            foreach ([[1280, 'day', ''], [390, 'night', $narrow]] as [$width, $theme, $rules]) {
                $this->resize($width);
                $this->driver()->executeScript("document.documentElement.dataset.theme = '{$theme}'");
                $violations = $this->driver()->executeAsyncScript(
                    'const done = arguments[arguments.length - 1]; axe.run(document, '
                        ."{{$rules}".'resultTypes: ["violations"], preload: false}).then((r) => done(r.violations.map((v) => v.id + ": " + '
                        .'v.nodes.map((n) => n.html.slice(0, 160) + " " + n.failureSummary).join(" | "))))',
                );
                self::assertSame([], $violations, "{$page} at {$width}");
                // Once more: figures are drawn anew a moment after the page has its width.
                $this->assertScrollsNoFurther($page, $width);
            }
            $this->resize(1280);
        }
    }

    private function assertScrollsNoFurther(string $page, int $width): void
    {
        self::assertLessThanOrEqual(
            0,
            $this->driver()->executeScript('return document.documentElement.scrollWidth - window.innerWidth'),
            "{$page} at {$width} does not scroll sideways",
        );
    }

    /** Returns when the page has the width. */
    private function resize(int $width): void
    {
        $this->driver()->manage()->window()->setSize(new WebDriverDimension($width, 900));
        $this->driver()->executeAsyncScript(
            "const done = arguments[0], until = Date.now() + 2000, look = () => window.innerWidth === {$width} || Date.now() > until "
                .'? done() : setTimeout(look, 10); look();',
        );
    }

    /** What tells one page from the next; "" while there is none, between two. */
    private function page(): string
    {
        $found = $this->driver()->findElements(WebDriverBy::cssSelector('html'));

        return $found === [] ? '' : $found[0]->getID();
    }

    /** Does something that may lead to another page, and waits for that page where this one begins to leave. */
    protected function following(callable $act): void
    {
        $page = $this->page();
        $this->driver()->executeScript('window.leaves = false; addEventListener("beforeunload", () => { window.leaves = true; })');
        $act();
        // What is only saved begins to leave too, and stays.
        for ($i = 0; $this->leaves() && $i < 60 && in_array($this->page(), ['', $page], true); $i++) {
            usleep(50_000);
        }
        $this->chrome()->settle();
    }

    /** Whether the page begins to leave within a moment, or has left: asked within the page, as each question from outside takes work. */
    private function leaves(): bool
    {
        try {
            return $this->driver()->executeAsyncScript('const done = arguments[0], until = Date.now() + '.self::PATIENCE_MS
                .', look = () => window.leaves !== false || Date.now() > until ? done(window.leaves !== false) : setTimeout(look, 20); '
                .'look();') === true;
        } catch (WebDriverException) {
            // Between two pages.
            return true;
        }
    }

    /** Puts a text in place of what an editor holds, as somebody who types. */
    protected function write(string $id, string $text): RemoteWebElement
    {
        $this->until("#{$id}[hidden] ~ .cm-editor .cm-content");
        $editor = $this->find("#{$id} ~ .cm-editor .cm-content");
        $editor->click();
        $editor->sendKeys([WebDriverKeys::CONTROL, 'a']);
        $editor->sendKeys(WebDriverKeys::BACKSPACE);
        $editor->sendKeys($text);

        return $editor;
    }

    protected function written(string $id): string
    {
        return (string) $this->find("#{$id}")->getAttribute('value');
    }

    protected function heading(): string
    {
        self::assertCount(1, $this->driver()->findElements(WebDriverBy::cssSelector('h1')), 'one page, not one inside the other');

        return $this->find('h1')->getText();
    }

    protected function address(): string
    {
        return substr($this->driver()->getCurrentURL(), strlen(self::$base));
    }

    protected function driver(): RemoteWebDriver
    {
        return $this->chrome()->driver;
    }

    protected function chrome(): Chrome
    {
        return self::$chrome ?? throw new RuntimeException('No browser.');
    }

    /** Waits for a file that the browser is loading down and returns its text. */
    protected function downloaded(string $name): string
    {
        $path = $this->chrome()->downloads()."/{$name}";
        for ($i = 0; $i < 100 && ! is_file($path); $i++) {
            usleep(100_000);
        }

        return (string) file_get_contents($path);
    }

    protected static function root(): string
    {
        return dirname(__DIR__, 2);
    }

    /** @return array<string, string> */
    private static function environment(): array
    {
        $own = self::half() === 'other' ? '-other' : '';
        $schema = self::half() === 'other' ? '_other' : '';

        return [
            'APP_ENV' => 'testing',
            'APP_DEBUG' => 'false',
            'CACHE_STORE' => 'database',
            'DB_DATABASE' => "fulcrion_browser{$schema}",
            'DB_PASSWORD' => (string) getenv('DB_PASSWORD'),
            'DB_USERNAME' => 'fulcrion_test',
            'FULCRION_JOB_WATCH' => '0',
            'FULCRION_LAKE' => self::root().'/var/lake-browser',
            'FULCRION_PRACTICE' => self::root()."/var/practice-browser{$own}",
            'FULCRION_REACHABLE' => '127.0.0.1',
            'FULCRION_STORAGE' => "browser{$own}-storage",
            'KEEPER_SCHEMAS' => "brackenfold_browser{$schema}",
            'QUEUE_CONNECTION' => 'sync',
            'SESSION_DRIVER' => 'database',
        ] + getenv();
    }
}

<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Facebook\WebDriver\WebDriverBy;
use Fulcrion\Tools\Demo\Team;
use Tests\Browser\Chrome;

/**
 * How many frames a second the score draws while it replays 12,000 tasks, in headless Chromium, of the running demo. The
 * peer is a frame that draws nothing: what the browser itself gets to.
 */
final class JobReplayBench implements Measurement
{
    private const SECONDS = 10;

    public function name(): string
    {
        return 'job-replay';
    }

    public function run(Closure $say): iterable
    {
        $port = @file_get_contents(base_path('var/run/web.port'));
        $base = 'http://127.0.0.1:'.trim((string) $port);
        if ($port === false || @file_get_contents("{$base}/up") === false) {
            $say('the demo is not running: ./fulcrion start');

            return;
        }
        $chrome = Chrome::start(1280, 800);
        try {
            $driver = $chrome->driver;
            $driver->get("{$base}/sign-in");
            $driver->findElement(WebDriverBy::name('email'))->sendKeys((string) array_key_first(Team::PEOPLE));
            $driver->findElement(WebDriverBy::name('password'))->sendKeys(Team::PASSWORD);
            $driver->findElement(WebDriverBy::cssSelector('main form button'))->click();
            $chrome->open("{$base}/tune/jobs/of/fernhill/climate-fold");
            for ($i = 0; $i < 100 && $driver->findElement(WebDriverBy::cssSelector('[data-score-line]'))->getText() === ''; $i++) {
                usleep(100_000);
            }
            // What is reckoned behind the page is not measured with it.
            for ($i = 0; $i < 300 && $driver->findElements(WebDriverBy::cssSelector('#job-forecast[data-distribution]')) === []; $i++) {
                usleep(100_000);
            }
            $say('frames that draw nothing');
            $driver->executeScript(
                'window.bare = 0; const began = performance.now(); const step = (now) => { window.bare++; if (now - began < 3000) '
                    .'requestAnimationFrame(step); }; requestAnimationFrame(step);',
            );
            sleep(4);
            $bare = (float) $driver->executeScript('return window.bare') / 3;
            $say('replaying');
            $driver->findElement(WebDriverBy::cssSelector('[data-score-play]'))->click();
            sleep(self::SECONDS);
            $frames = (float) $driver->findElement(WebDriverBy::cssSelector('[data-score]'))->getAttribute('data-frames-per-second');
            yield BenchFigure::of('frames a second that draw nothing', $bare, 'frames/s');
            yield BenchFigure::atLeast('replay of 12,000 tasks', $frames, 30, 'frames/s');
        } finally {
            $chrome->stop();
        }
    }
}

<?php

declare(strict_types=1);

/*
 * Draws the main views of the running demo into docs/screenshots, or one address into a file:
 *
 *   shots.php BASE
 *   shots.php BASE ADDRESS FILE [WIDTHxHEIGHT] [EMAIL]
 */

use Facebook\WebDriver\WebDriverBy;
use Fulcrion\Tools\Demo\Team;
use Tests\Browser\Chrome;

require __DIR__.'/../vendor/autoload.php';

$base = $argv[1];
$size = explode('x', $argv[4] ?? '1280x800');
$chrome = Chrome::start((int) $size[0], (int) $size[1]);
try {
    $driver = $chrome->driver;
    $driver->get("{$base}/sign-in");
    $driver->findElement(WebDriverBy::name('email'))->sendKeys($argv[5] ?? array_key_first(Team::PEOPLE));
    $driver->findElement(WebDriverBy::name('password'))->sendKeys(Team::PASSWORD);
    $driver->findElement(WebDriverBy::cssSelector('main form button'))->click();
    $chrome->settle();
    $isSignedOut = static fn (): bool => parse_url($driver->getCurrentURL(), PHP_URL_PATH) === '/sign-in';
    for ($i = 0; $i < 100 && $isSignedOut(); $i++) {
        usleep(100_000);
    }
    $shoot = static function (string $address, string $file) use ($chrome, $base, $isSignedOut): void {
        $chrome->open(str_starts_with($address, 'http') ? $address : $base.$address);
        if ($isSignedOut()) {
            throw new RuntimeException("Nobody is signed in: {$file} was not drawn.");
        }
        $chrome->driver->takeScreenshot($file);
        echo "  {$file}\n";
    };
    if (isset($argv[3])) {
        $shoot($argv[2], $argv[3]);
        exit(0);
    }
    $directory = dirname(__DIR__).'/docs/screenshots';
    $shoot('/', "{$directory}/round.png");
    $shoot('/tune/layout?cluster=fernhill', "{$directory}/layout.png");
    $chrome->open("{$base}/ledger/proofs");
    // The one that saves most.
    $proofs = $driver->findElements(WebDriverBy::cssSelector('main tr[data-row]:has(td.problem a):has(td.n)'));
    usort(
        $proofs,
        static fn ($a, $b): int => (float) $b->findElement(WebDriverBy::cssSelector('td.n'))->getText() <=>
            (float) $a->findElement(WebDriverBy::cssSelector('td.n'))->getText(),
    );
    if ($proofs !== []) {
        $shoot((string) $proofs[0]->findElement(WebDriverBy::cssSelector('td.problem a'))->getAttribute('href'), "{$directory}/proof.png");
    }
    $shoot('/tune/statements?cluster=fernhill&window=last+28+days', "{$directory}/statements.png");
    $slowest = $driver->findElement(WebDriverBy::cssSelector('.annotated li a.what'))->getAttribute('href');
    $shoot((string) $slowest, "{$directory}/statement.png");
    $chrome->open("{$base}/tune/plans?cluster=fernhill&words=JOIN+calendar_day");
    $shoot((string) $driver->findElement(WebDriverBy::cssSelector('td.statement a'))->getAttribute('href'), "{$directory}/plan.png");
    $chrome->open(
        "{$base}/tune/workbench?cluster=fernhill&sql=".
            rawurlencode(
                "SELECT g.region, p.grade, count(*) AS picks, sum(p.kilos) AS kilos\nFROM field.harvest_pick p\nJOIN ref.glasshouse g "
                    ."USING (glasshouse_id)\nWHERE p.kilos > 12.5\nGROUP BY g.region, p.grade\nORDER BY kilos DESC",
            ),
    );
    $driver->findElement(WebDriverBy::cssSelector('button[data-mode=run][data-which=one]'))->click();
    for ($i = 0; $i < 100 && $driver->findElements(WebDriverBy::cssSelector('.outcome table')) === []; $i++) {
        usleep(100_000);
    }
    $driver->takeScreenshot("{$directory}/workbench.png");
    $shoot('/meter/usage?days=last+7+days', "{$directory}/usage.png");
    $chrome->open("{$base}/meter/bills");
    $shoot((string) $driver->findElement(WebDriverBy::cssSelector('main tbody a'))->getAttribute('href'), "{$directory}/bill.png");
    $shoot('/tune/rollups?cluster=fernhill&table=field.climate_reading', "{$directory}/rollups.png");
    $wait = static function (string $selector, int $seconds) use ($driver): void {
        for ($i = 0; $i < 10 * $seconds && $driver->findElements(WebDriverBy::cssSelector($selector)) === []; $i++) {
            usleep(100_000);
        }
    };
    $chrome->open("{$base}/tune/jobs/of/fernhill/climate-fold");
    $wait('#job-later[data-luck]', 60);
    // Half way through the replay.
    $driver->executeScript(
        "const scrub = document.querySelector('[data-score-scrub]'); scrub.value = 520; scrub.dispatchEvent(new Event('input'))",
    );
    $driver->takeScreenshot("{$directory}/job.png");
    $shoot('/guard', "{$directory}/access.png");
    foreach ([
        'clusters?at=last+monday+08:05' => 'clusters', 'beside' => 'beside', 'system?at=monday+08:00' => 'system',
        'moment?at=monday+08:05' => 'moment', 'alerts/new?cluster=fernhill&signal=load:waiting&threshold=0.5&for=30' => 'alert',
        'storage?cluster=fernhill' => 'storage',
    ] as $address => $name) {
        $shoot("/tend/{$address}", "{$directory}/{$name}.png");
    }
    $chrome->open("{$base}/meter/limits");
    $shoot(
        (string) $driver->findElement(WebDriverBy::partialLinkText('team forecast_lab'))->getAttribute('href'),
        "{$directory}/limit.png",
    );
} finally {
    $chrome->stop();
}

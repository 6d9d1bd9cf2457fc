<?php

declare(strict_types=1);

/*
 * Draws the main views of the running demo into docs/screenshots, or one address into a file:
 *
 *   shots.php BASE
 *   shots.php BASE ADDRESS FILE [WIDTHxHEIGHT] [EMAIL]
 */

use Database\Demo\Team;
use Facebook\WebDriver\WebDriverBy;
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
    $shoot = static function (string $address, string $file) use ($chrome, $base): void {
        $chrome->open(str_starts_with($address, 'http') ? $address : $base.$address);
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
    $shoot('/tune/layout/fernhill/field.climate_reading', "{$directory}/layout-table.png");
    $chrome->open("{$base}/ledger/proofs");
    $proof = $driver->findElements(WebDriverBy::cssSelector('td.problem a'));
    if ($proof !== []) {
        $change = (string) $driver->findElement(WebDriverBy::cssSelector('tbody td:nth-child(2) a'))->getAttribute('href');
        $shoot((string) $proof[0]->getAttribute('href'), "{$directory}/proof.png");
        $shoot($change, "{$directory}/change.png");
    }
    $shoot('/tune/statements?cluster=fernhill&window=last+28+days', "{$directory}/statements.png");
    $slowest = $driver->findElement(WebDriverBy::cssSelector('.standouts li a.what'))->getAttribute('href');
    $shoot((string) $slowest, "{$directory}/statement.png");
    $shoot('/tune/compare?cluster=fernhill&window=last+7+days&against=the+window+before', "{$directory}/compare.png");
    // Something real should run while this picture is taken.
    $query = '$e = parse_ini_file($argv[1], false, INI_SCANNER_RAW); $p = new PDO("mysql:host=127.0.0.1;port={$e["DB_PORT"]};dbname=fulcrion", "fulcrion_app", $e["DB_PASSWORD"]);
        $p->query("SET STATEMENT max_statement_time = 6 FOR SELECT COUNT(*), MAX(a.max_us) FROM load_hour a JOIN load_hour b ON b.statement_id = a.statement_id WHERE a.cluster_id = 2 AND b.rows_examined > a.rows_examined");';
    $busy = proc_open([PHP_BINARY, '-r', $query, dirname(__DIR__).'/.env'], [['file', '/dev/null', 'r'], ['file', '/dev/null', 'w'], ['file', '/dev/null', 'w']], $pipes);
    usleep(500_000);
    $shoot('/tune/running?cluster=own-store', "{$directory}/running.png");
    $busy === false || proc_close($busy);
    $chrome->open("{$base}/tune/plans?cluster=fernhill");
    $driver->findElement(WebDriverBy::cssSelector('td.statement a'))->click();
    $shoot((string) $driver->findElement(WebDriverBy::partialLinkText('Beside the plan'))->getAttribute('href'), "{$directory}/plan-compare.png");
    $chrome->open("{$base}/tune/plans?cluster=fernhill&words=JOIN+calendar_day");
    $shoot((string) $driver->findElement(WebDriverBy::cssSelector('td.statement a'))->getAttribute('href'), "{$directory}/plan.png");
    $chrome->open("{$base}/tune/workbench?cluster=fernhill&sql=".rawurlencode("SELECT g.region, p.grade, count(*) AS picks, sum(p.kilos) AS kilos\nFROM field.harvest_pick p\nJOIN ref.glasshouse g USING (glasshouse_id)\nWHERE p.kilos > 12.5\nGROUP BY g.region, p.grade\nORDER BY kilos DESC"));
    $driver->findElement(WebDriverBy::cssSelector('button[data-mode=run][data-which=one]'))->click();
    for ($i = 0; $i < 100 && $driver->findElements(WebDriverBy::cssSelector('.outcome table')) === []; $i++) {
        usleep(100_000);
    }
    $driver->takeScreenshot("{$directory}/workbench.png");
    $shoot('/tune/catalog?cluster=fernhill', "{$directory}/catalog.png");
    $shoot('/tune/imports', "{$directory}/imports.png");
    $shoot('/tend/clusters', "{$directory}/clusters.png");
    $shoot('/ledger', "{$directory}/ledger.png");
    $shoot('/guard', "{$directory}/access.png");
    $shoot('/guard/try?'.http_build_query(['who' => 'ebba.lund', 'policy' => 'published', 'cluster' => 'fernhill', 'sql' => "SELECT glasshouse_id, sum(kilos) AS kilos\nFROM field.harvest_pick\nWHERE glasshouse_id IN (1, 2)\nGROUP BY glasshouse_id"]), "{$directory}/try-as.png");
    // A draft is made for the picture and discarded again, unless somebody has one.
    $chrome->open("{$base}/guard/draft");
    $own = str_starts_with($driver->findElement(WebDriverBy::tagName('h1'))->getText(), 'The draft is empty');
    if ($own) {
        $chrome->open("{$base}/guard/labels");
        foreach ($driver->findElements(WebDriverBy::cssSelector('form[action="/guard/labels/mend"] [data-ticks-all]')) as $box) {
            $box->click();
            $driver->findElement(WebDriverBy::cssSelector('form[action="/guard/labels/mend"] .btn-primary'))->click();
        }
        $chrome->open("{$base}/guard/draft");
    }
    for ($i = 0; $i < 100 && $driver->findElements(WebDriverBy::cssSelector('#replay')) === []; $i++) {
        usleep(100_000);
    }
    $driver->takeScreenshot("{$directory}/draft.png");
    if ($own) {
        foreach ($driver->findElements(WebDriverBy::cssSelector('button[form="discard-all"]')) as $button) {
            $button->click();
            $button->click();
        }
    }
} finally {
    $chrome->stop();
}

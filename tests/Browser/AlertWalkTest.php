<?php

declare(strict_types=1);

namespace Tests\Browser;

use Facebook\WebDriver\WebDriverBy;
use Facebook\WebDriver\WebDriverKeys;
use Facebook\WebDriver\WebDriverSelect;
use Fulcrion\Tools\Loopback;
use Symfony\Component\Process\Process;

/**
 * An alert from its rehearsal to the end of what it rang for.
 */
final class AlertWalkTest extends BrowserTestCase
{
    private const OWNER = 'marta@brackenfold.example';

    private const ENGINEER = 'idris@brackenfold.example';

    private ?Process $listener = null;

    protected function tearDown(): void
    {
        putenv('FULCRION_NOW');
        $this->listener?->stop(1);
        parent::tearDown();
    }

    private function main(): string
    {
        return $this->find('main')->getText();
    }

    /** A real receiver that keeps what it is sent. */
    private function listen(string $folder): int
    {
        is_dir($folder) || mkdir($folder, 0o700, true);
        file_put_contents("{$folder}/router.php", '<?php file_put_contents(__DIR__."/".str_replace(".", "", uniqid("post-", true)), '
            .'json_encode([getallheaders(), file_get_contents("php://input")])); http_response_code(204);');
        $port = Loopback::freePort();
        $this->listener = new Process([PHP_BINARY, '-S', "127.0.0.1:{$port}", "{$folder}/router.php"], $folder);
        $this->listener->start();
        for ($i = 0; $i < 100 && @fsockopen('127.0.0.1', $port) === false; $i++) {
            usleep(50_000);
        }

        return $port;
    }

    /**
     * @param  array<int, float>  $levels by second
     */
    private function send(string $token, array $levels): void
    {
        $points = [];
        foreach ($levels as $at => $level) {
            $points[] = ['timeUnixNano' => $at.'000000000', 'asDouble' => $level];
        }
        $body = ['resourceMetrics' => [['resource' => ['attributes' => [['key' => 'host.name', 'value' => ['stringValue' => 'pump-1']]]],
            'scopeMetrics' => [['metrics' => [['name' => 'pump.level', 'unit' => 'm', 'gauge' => ['dataPoints' => $points]]]]]]]];
        $answer = $this->driver()->executeAsyncScript('const done = arguments[2]; fetch("/api/v1/metrics", {method: "POST", headers: '
            .'{"Content-Type": "application/json", Authorization: `Bearer ${arguments[0]}`}, body: arguments[1]}).then((answer) => '
            .'answer.text().then((text) => done([answer.status, text])));', [$token, json_encode($body, JSON_THROW_ON_ERROR)]);
        self::assertSame([200, '{}'], $answer);
    }

    /** @return list<array{array<string, string>, array<string, mixed>}> headers and what was sent, in the order it came */
    private static function received(string $folder): array
    {
        $files = (array) glob("{$folder}/post-*");
        sort($files);

        $all = array_map(static function (mixed $file): array {
            [$headers, $body] = json_decode((string) file_get_contents((string) $file), true);

            return [array_change_key_case($headers), json_decode($body, true), $body];
        }, $files);

        // Those of the demo are told as well.
        return array_values(array_filter($all, static fn (array $one): bool => $one[1]['cluster'] === 'own-store'));
    }

    public function test_an_alert_is_rehearsed_switched_on_rings_is_taken_and_ends(): void
    {
        $folder = sys_get_temp_dir().'/fulcrion-pager-'.bin2hex(random_bytes(4));
        $port = $this->listen($folder);
        $this->signIn(self::OWNER);
        $this->open('/ledger/outbox');
        (new WebDriverSelect($this->find('#watch-kind')))->selectByValue('webhook');
        (new WebDriverSelect($this->find('#watch-hears')))->selectByVisibleText('incidents');
        $this->find('#watch-target')->sendKeys("http://127.0.0.1:{$port}/in");
        $this->click($this->button('Add'));
        $secret = $this->find('.notice .mono')->getText();
        self::assertMatchesRegularExpression('~^\w{48}$~', $secret);
        $this->open('/tend/clusters/own-store');
        $this->find('#token_name')->sendKeys('pumps');
        (new WebDriverSelect($this->find('#token_may')))->selectByValue('metrics:write');
        $this->click($this->button('Make a token'));
        self::assertSame(1, preg_match('~\d+\|\w{40,}~', $this->main(), $token));
        $now = time();
        $levels = [];
        for ($minute = 12; $minute > 0; $minute--) {
            $levels[$now - 60 * $minute] = 90.0;
        }
        $this->send($token[0], $levels);

        // Rehearsed, with the threshold moved by keys in the figure.
        $this->open('/tend/alerts');
        self::assertStringContainsString('Dashboards wait', $this->main());
        $this->click($this->link('Set an alert'));
        $this->open('/tend/alerts/new?cluster=own-store&signal=host:metric.pump.level&for=3&quiet=0&threshold=95');
        self::assertSame('It would not have rung in 28 days', $this->heading());
        $this->until('.threshold[data-live]');
        $line = $this->find('.threshold');
        $line->sendKeys(WebDriverKeys::PAGE_DOWN);
        $line->sendKeys(WebDriverKeys::PAGE_DOWN);
        $line->sendKeys(WebDriverKeys::ENTER);
        $this->eventually(fn (): bool => str_starts_with($this->heading(), 'It would have rung once in 28 days'), 'it is rehearsed again');
        self::assertMatchesRegularExpression('~threshold=6\d~', $this->address());
        self::assertNotEmpty($this->driver()->findElements(WebDriverBy::cssSelector('svg .rang')));
        $this->find('#m-when')->sendKeys('last 20 minutes');
        $this->find('#m-mark')->sendKeys('pump ran dry');
        $this->click($this->button('Mark'));
        self::assertStringContainsString('and caught what was marked', $this->heading());
        self::assertStringContainsString('still catches all that is marked', $this->main());
        $this->click($this->button('Switch it on'));
        self::assertStringContainsString('Give it a name', $this->validation());
        $this->find('#a-name')->sendKeys('Pump runs dry');
        $this->find('#a-urgent')->click();
        $this->click($this->button('Switch it on'));
        self::assertStringContainsString('Pump runs dry is on.', $this->main());

        // It has lasted long enough: it rings at once, once.
        self::artisan('alerts:judge');
        self::artisan('alerts:judge');
        self::artisan('ledger:post');
        $posts = self::received($folder);
        self::assertCount(1, $posts);
        [$headers, $told, $body] = $posts[0];
        self::assertSame(['began', 'own-store', 'Own store: pump.level of pump-1 at 90 m', true],
            [$told['event'], $told['cluster'], $told['title'], $told['urgent']]);
        self::assertSame(1, preg_match('~^sig=(.+)$~', $headers['signature-input'], $input));
        $digest = 'sha-256=:'.base64_encode(hash('sha256', $body, true)).':';
        $base = "\"@method\": POST\n\"@target-uri\": http://127.0.0.1:{$port}/in\n\"content-digest\": {$digest}\n"
            ."\"@signature-params\": {$input[1]}";
        self::assertSame('sig=:'.base64_encode(hash_hmac('sha256', $base, $secret, true)).':', $headers['signature']);
        $this->open('/');
        self::assertStringContainsString('pump.level of pump-1', $this->main());
        $this->open('/ledger/outbox');
        self::assertStringContainsString('Began: Own store: pump.level of pump-1 at 90 m', $this->main());
        self::assertStringContainsString('on-call@brackenfold.example', $this->main());

        $this->signIn(self::ENGINEER);
        $this->open('/tend/alerts');
        self::assertStringContainsString('nobody has taken', $this->heading());
        $this->click($this->link('Own store: pump.level of pump-1'));
        self::assertStringContainsString('and it goes on', $this->heading());
        $this->click($this->button('I take it'));
        self::assertStringContainsString('takes care of it', $this->main());
        $this->find('#i-said')->sendKeys('The valve was closed.');
        $this->click($this->button('Add'));
        self::assertStringContainsString('The valve was closed.', $this->main());
        $this->assertFitForEverybody([substr($this->address(), strlen(self::site())), '/tend/alerts', '/tend/silences',
            '/tend/alerts/new?cluster=fernhill']);

        // It is calm, and a quarter of an hour later it is over.
        $this->send($token[0], [$now + 60 => 10.0, $now + 120 => 10.0, $now + 180 => 10.0]);
        putenv('FULCRION_NOW='.gmdate('Y-m-d\TH:i:s\Z', $now + 1_500));
        self::artisan('alerts:judge');
        self::artisan('ledger:post');
        self::assertSame(['began', 'over'], array_column(array_column(self::received($folder), 1), 'event'));
        $this->open('/tend/alerts');
        $this->click($this->link('Own store: pump.level of pump-1'));
        self::assertStringContainsString('over after', $this->heading());
        $this->click($this->button('It was one'));
        self::assertStringContainsString('is marked for rehearsals', $this->main());
        $file = $this->driver()->executeAsyncScript('const done = arguments[0]; fetch(document.querySelector("a[href$=\'/file\']").href)'
            .'.then((answer) => answer.text().then((text) => done([answer.headers.get("Content-Disposition"), text])));');
        self::assertMatchesRegularExpression('~^attachment; filename="incident-\d+\.html"$~', (string) $file[0]);
        self::assertStringContainsString('The valve was closed.', (string) $file[1]);
        self::assertDoesNotMatchRegularExpression('~<script|https?://(?!www\.w3\.org)~', (string) $file[1]);
    }

    private function validation(): string
    {
        return (string) $this->driver()->executeScript('const field = document.querySelector("#a-name"); '
            .'return field.validity.valueMissing ? "Give it a name" : document.querySelector("main").innerText');
    }

    private static function site(): string
    {
        return (string) preg_replace('~^(https?://[^/]+).*$~', '$1', (string) (new \ReflectionProperty(BrowserTestCase::class, 'base'))
            ->getValue());
    }

    public function test_a_silence_is_set_and_ended(): void
    {
        $this->signIn(self::ENGINEER);
        $this->open('/tend/silences');
        $this->find('#s-when')->sendKeys('soon');
        $this->find('#s-reason')->sendKeys('disks are exchanged');
        $this->click($this->button('Silence'));
        self::assertStringContainsString('is not a window', $this->main());
        $this->find('#s-when')->clear()->sendKeys('next 2 hours');
        $this->click($this->button('Silence'));
        self::assertStringContainsString('One silence goes on', $this->heading());
        $this->click($this->button('End'));
        self::assertSame('Nothing is silenced', $this->heading());
    }
}

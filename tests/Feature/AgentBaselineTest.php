<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Baseline\Application\BaselineBook;
use Fulcrion\Core\Metrics\Wire\HostReadingReader;
use Fulcrion\Core\Settings\SettingText;
use Fulcrion\Tools\Loopback;
use PHPUnit\Framework\Attributes\Group;
use PHPUnit\Framework\TestCase;
use Symfony\Component\Process\Process;

/**
 * The agent as it runs on a host, with tools that say what they were asked: it measures when it is asked to, within its own limits, and
 * tells how the host is set.
 */
#[Group('today')]
final class AgentBaselineTest extends TestCase
{
    private string $folder;

    private int $port;

    private ?Process $listener = null;

    protected function setUp(): void
    {
        $this->folder = sys_get_temp_dir().'/fulcrion-agent-'.bin2hex(random_bytes(4));
        mkdir("{$this->folder}/bin", 0o755, true);
        mkdir("{$this->folder}/space");
        file_put_contents("{$this->folder}/token", 'secret');
        $this->port = Loopback::freePort();
        // Each tool keeps its words and prints as the real one does.
        foreach (['fio' => '{"jobs":[{"error":0,"read":{"bw_bytes":500,"iops":50},"write":{"bw_bytes":400}}]}',
            'sysbench' => "events per second:  12.50\n1.00 MiB transferred (3.00 MiB/sec)",
            'iperf3' => '{"end":{"sum_received":{"bits_per_second":800}}}'] as $tool => $output) {
            file_put_contents("{$this->folder}/bin/{$tool}",
                "#!/bin/sh\necho \"{$tool} \$*\" >> {$this->folder}/asked\ncat <<'END'\n{$output}\nEND\n");
            chmod("{$this->folder}/bin/{$tool}", 0o755);
        }
    }

    protected function tearDown(): void
    {
        $this->listener?->stop(1);
        (new Process(['rm', '-rf', $this->folder]))->run();
    }

    /**
     * @return list<string>
     */
    private static function glob(string $pattern): array
    {
        $files = glob($pattern);

        return $files === false ? [] : $files;
    }

    /** Answers each post: the first ones with what is asked. */
    private function listen(string ...$asked): void
    {
        $answers = var_export($asked, true);
        file_put_contents("{$this->folder}/router.php", <<<PHP
            <?php
            \$n = count(glob(__DIR__.'/post-*'));
            \$asked = {$answers}[\$n] ?? '';
            \$body = file_get_contents('php://input');
            file_put_contents(sprintf('%s/post-%03d', __DIR__, \$n), str_starts_with(\$body, "\\x1f\\x8b") ? gzdecode(\$body) : \$body);
            header('Content-Type: application/json');
            echo '{"taken":1,"complaints":[]'.(\$asked === '' ? '' : ',"asked":'.\$asked).'}';
            PHP);
        $this->listener = new Process([PHP_BINARY, '-S', "127.0.0.1:{$this->port}", "{$this->folder}/router.php"], $this->folder);
        $this->listener->start();
        for ($i = 0; $i < 100 && @fsockopen('127.0.0.1', $this->port) === false; $i++) {
            usleep(50_000);
        }
    }

    private function agent(int $count, string ...$options): Process
    {
        return new Process([PHP_BINARY, dirname(__DIR__, 2).'/bin/agent', "--url=http://127.0.0.1:{$this->port}",
            "--token-file={$this->folder}/token", "--spool={$this->folder}/spool", '--host=barn-1', '--every=1', "--count={$count}",
            ...$options],
            null, ['PATH' => "{$this->folder}/bin:".getenv('PATH')]);
    }

    /**
     * @return list<array<string, mixed>> readings in the order they were sent
     */
    private function readings(): array
    {
        $readings = [];
        foreach (self::glob("{$this->folder}/post-*") as $file) {
            array_push($readings, ...json_decode((string) file_get_contents($file), true)['readings']);
        }

        return $readings;
    }

    public function test_it_measures_once_when_it_is_asked_and_sends_it_with_the_next_reading(): void
    {
        $this->listen('{"id":7,"kind":"measure","partner":""}');
        $agent = $this->agent(3, '--baselines', "--folder={$this->folder}/space", '--seconds=3', '--space=20000000', '--load=99');
        self::assertSame(0, $agent->run(), $agent->getErrorOutput());
        $readings = $this->readings();
        self::assertSame([false, true, false], array_map(static fn (array $one): bool => isset($one['baseline']), $readings));
        $result = $readings[1]['baseline'];
        self::assertSame([7, 'complete', []], [$result['id'], $result['state'], $result['notes']]);
        $kept = BaselineBook::kept($result);
        self::assertEquals(['disk-read' => 500, 'disk-write' => 400, 'disk-random' => 50, 'processors' => 12.5, 'memory' => 3 * 1_048_576],
            $kept['values']);
        $asked = (string) file_get_contents("{$this->folder}/asked");
        self::assertSame(3, substr_count($asked, '--size=20000000'), 'the space it was started with');
        self::assertSame(3, substr_count($asked, '--runtime=3 '));
        self::assertStringContainsString("--filename={$this->folder}/space/", $asked);
        self::assertStringContainsString('--time=3', $asked);
        self::assertStringNotContainsString('iperf3', $asked, 'to nobody');
        self::assertSame([], self::glob("{$this->folder}/space/*"));
    }

    public function test_a_partner_that_is_named_is_measured_to_and_nothing_of_it_reaches_a_shell(): void
    {
        $this->listen('{"id":8,"kind":"measure","partner":"barn-2; touch '.$this->folder.'/hacked"}');
        $this->agent(2, '--baselines', "--folder={$this->folder}/space", '--seconds=1', '--load=99')->run();
        self::assertFileDoesNotExist("{$this->folder}/hacked");
        self::assertStringContainsString('iperf3 -c barn-2; touch', (string) file_get_contents("{$this->folder}/asked"));
        $baseline = $this->readings()[1]['baseline'];
        self::assertSame(100.0, BaselineBook::kept($baseline)['values']['network']);
    }

    public function test_without_the_word_of_its_host_it_never_measures(): void
    {
        $this->listen('{"id":7,"kind":"measure"}', '{"id":8,"kind":"measure"}');
        self::assertSame(0, $this->agent(3)->run());
        self::assertCount(3, $this->readings());
        self::assertSame([], array_filter($this->readings(), static fn (array $one): bool => isset($one['baseline'])));
        self::assertFileDoesNotExist("{$this->folder}/asked");
    }

    public function test_an_answer_that_makes_no_sense_is_nothing_it_was_asked(): void
    {
        $this->listen('7', '"measure"', '[]', '{"kind":["x"],"id":"y","partner":{"a":1}}');
        $agent = $this->agent(3, '--baselines', "--folder={$this->folder}/space", '--seconds=1', '--load=99');
        self::assertSame(0, $agent->run());
        self::assertStringNotContainsString('PHP', $agent->getErrorOutput());
    }

    public function test_to_be_the_other_end_is_no_baseline(): void
    {
        $this->listen('{"id":9,"kind":"serve"}');
        self::assertSame(0, $this->agent(2, '--baselines')->run());
        self::assertSame([], array_filter($this->readings(), static fn (array $one): bool => isset($one['baseline'])));
        self::assertStringContainsString('iperf3 -s -1', (string) file_get_contents("{$this->folder}/asked"));
    }

    public function test_a_tool_that_fails_takes_nothing_else_with_it(): void
    {
        file_put_contents("{$this->folder}/bin/sysbench", "#!/bin/sh\necho 'FATAL: no such option' >&2\nexit 1\n");
        unlink("{$this->folder}/bin/fio");
        file_put_contents("{$this->folder}/bin/fio", "#!/bin/sh\nprintf '{\"jobs\":[{\"error\":28}]}'\nexit 1\n");
        chmod("{$this->folder}/bin/fio", 0o755);
        $process = new Process([PHP_BINARY, dirname(__DIR__, 2).'/bin/agent', '--measure', "--folder={$this->folder}/space", '--seconds=1',
            '--load=99', '--partner=barn-2'], null, ['PATH' => "{$this->folder}/bin:".getenv('PATH')]);
        self::assertSame(0, $process->run());
        self::assertSame(['network' => 100.0], BaselineBook::kept((array) json_decode($process->getOutput(), true))['values']);
    }

    public function test_settings_are_sent_at_its_start_and_read_as_the_kernel_has_them(): void
    {
        $this->listen();
        self::assertSame(0, $this->agent(3, '--server=php')->run());
        $readings = $this->readings();
        self::assertSame([true, false, false], array_map(static fn (array $one): bool => isset($one['settings']), $readings),
            'then every hour');
        $sent = HostReadingReader::read((string) file_get_contents(self::glob("{$this->folder}/post-*")[0]));
        $settings = SettingText::read(array_values($sent->settings)[0]);
        self::assertSame(trim((string) file_get_contents('/proc/sys/vm/swappiness')), $settings['vm.swappiness']);
        self::assertSame(trim((string) file_get_contents('/proc/sys/kernel/osrelease')), $settings['kernel.osrelease']);
        self::assertMatchesRegularExpression('~^(\d+|unlimited)$~', (string) $settings['limit.open_files'],
            'of the process it was told of');
        self::assertNotSame([], preg_grep('~^mount\./~', array_keys($settings)));
        foreach ($settings as $name => $value) {
            self::assertSame($value, $value === null ? null : trim($value), $name);
        }
    }
}

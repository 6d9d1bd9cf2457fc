<?php

declare(strict_types=1);

namespace Tests\Core\Settings;

use Fulcrion\Core\Metrics\Wire\HostReadingReader;
use Fulcrion\Core\Settings\SetStep;
use Fulcrion\Core\Settings\SettingCommand;
use Fulcrion\Core\Settings\SettingText;
use InvalidArgumentException;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class SettingTextTest extends TestCase
{
    public function test_the_kernel_is_read_as_it_writes(): void
    {
        self::assertSame([
            'vm.swappiness' => '60',
            'net.core.somaxconn' => null,
            'transparent_hugepage.enabled' => 'madvise',
            'block.sda.read_ahead_kb' => '128',
            'block.nvme0n1.scheduler' => 'mq-deadline',
            'limit.open_files' => '1024',
            'time.synchronised' => 'no',
            'mount./' => 'rw,relatime',
            'mount./var/lib/my data' => 'rw,noatime',
        ], SettingText::read([
            '/proc/sys/vm/swappiness' => "60\n",
            '/proc/sys/net/core/somaxconn' => null,
            '/sys/kernel/mm/transparent_hugepage/enabled' => "always [madvise] never\n",
            '/sys/block/sda/queue/read_ahead_kb' => "128\n",
            '/sys/block/loop0/queue/read_ahead_kb' => "128\n",
            '/sys/block/nvme0n1/queue/scheduler' => "none [mq-deadline] kyber\n",
            '/sys/block/../../etc/queue/scheduler' => 'x',
            'limits' => "Limit   Soft Limit  Hard Limit  Units\nMax open files            1024             524288           files     \n",
            'time_synchronised' => 'no',
            '/proc/mounts' => "/dev/vda1 / ext4 rw,relatime 0 0\nproc /proc proc rw 0 0\n"
                ."/dev/vdb /var/lib/my\\040data xfs rw,noatime 0 0\nbroken\n",
        ]));
        self::assertSame([], SettingText::read([]));
        self::assertSame(['limit.open_files' => 'unlimited'],
            SettingText::read(['limits' => "Max open files   unlimited   unlimited   files\n"]));
    }

    public function test_chrony_says_whether_time_is_kept(): void
    {
        $tracking = static fn (string $leap): string => "Reference ID    : C0A80001 (192.168.0.1)\nStratum         : 3\n"
            ."System time     : 0.000003722 seconds slow of NTP time\nUpdate interval : 64.2 seconds\nLeap status     : {$leap}\n";
        $said = static fn (string $text): ?string => SettingText::read([SettingText::SYNCHRONISED => $text])['time.synchronised'];
        self::assertSame(['yes', 'yes', 'yes', 'no', 'yes', 'no'], array_map($said, [$tracking('Normal'), $tracking('Insert second'),
            $tracking('Delete second'), $tracking('Not synchronised'), 'yes', 'no']));
        self::assertSame(['time.synchronised' => null], SettingText::read([SettingText::SYNCHRONISED => null]));
    }

    public function test_this_kernel_tells_what_is_known_of_it(): void
    {
        $swappiness = '/proc/sys/vm/swappiness';
        $text = (string) file_get_contents($swappiness);
        self::assertSame(trim($text), SettingText::read([$swappiness => $text])['vm.swappiness']);
        foreach ([...SettingText::VALUES, ...SettingText::CHOICES] as $name => $path) {
            if (is_readable($path)) {
                self::assertMatchesRegularExpression('~^[\w.+-]+$~D', (string) (SettingText::read([$path =>
                    (string) file_get_contents($path)])[$name] ?? ''), $name);
            }
        }
        self::assertArrayHasKey('mount./', SettingText::read([SettingText::MOUNTS => "/dev/root / ext4 rw 0 0\n"]));
    }

    public function test_the_agent_sends_all_that_is_read(): void
    {
        $agent = (string) file_get_contents(__DIR__.'/../../../bin/agent');
        foreach ([...SettingText::VALUES, ...SettingText::CHOICES, SettingText::MOUNTS, SettingText::QUEUES] as $path) {
            self::assertStringContainsString("'{$path}'", $agent);
        }
        $sent = HostReadingReader::read((string) json_encode(['host' => 'fern-01', 'readings' => [[
            'at_ms' => 1_000, 'files' => ['loadavg' => '0.5 0.4 0.4 1/2 3'],
            'settings' => ['/proc/sys/vm/swappiness' => "1\n", '/proc/sys/vm/dirty_ratio' => null, 'other' => ['x']],
        ]]]));
        self::assertSame([1_000 => ['/proc/sys/vm/swappiness' => "1\n", '/proc/sys/vm/dirty_ratio' => null]], $sent->settings);
    }

    /**
     * @return iterable<string, array{string, string, string}>
     */
    public static function commands(): iterable
    {
        yield 'sysctl' => ['vm.swappiness', '1', 'sysctl -w vm.swappiness=1'];
        yield 'large pages' => ['transparent_hugepage.enabled', 'never', 'echo never > /sys/kernel/mm/transparent_hugepage/enabled'];
        yield 'a disk' => ['block.sda.read_ahead_kb', '4096', 'echo 4096 > /sys/block/sda/queue/read_ahead_kb'];
        yield 'a mount' => ['mount./var/lib', 'rw,noatime', 'mount -o remount,rw,noatime /var/lib'];
        yield 'a mount with a name that is a command' => ["mount./a'; rm -rf /", 'rw', "mount -o remount,rw '/a'\\''; rm -rf /'"];
        yield 'open files' => ['limit.open_files', '65536', 'prlimit --nofile=65536 --pid "$(pidof -s mariadbd)"'];
        yield 'a number of a server' => ['mariadb.max_connections', '200', 'SET GLOBAL max_connections = 200'];
        yield 'a word of a server' => ['mariadb.sql_mode', "A'B", "SET GLOBAL sql_mode = 'A''B'"];
        yield 'a name that is no variable' => ['mariadb.x; DROP', '1', '# set mariadb.x__DROP to 1'];
        yield 'a value that is a command' => ['vm.swappiness', '1; reboot', "sysctl -w vm.swappiness='1; reboot'"];
        yield 'a disk that is a path' => ['block.../../etc.scheduler', 'x', '# set block.../../etc.scheduler to x'];
    }

    #[DataProvider('commands')]
    public function test_a_command_sets_it_and_nothing_else(string $name, string $value, string $command): void
    {
        self::assertSame($command, SettingCommand::of($name, $value));
        self::assertNotSame('', SettingCommand::kept($name));
    }

    public function test_a_step_is_read_as_it_is_written(): void
    {
        $step = SetStep::read((new SetStep('mariadb.x', 'a = b'))->written());
        self::assertSame(['mariadb.x', 'a = b'], [$step->name, $step->value]);
        $this->expectException(InvalidArgumentException::class);
        SetStep::read('vm.swappiness');
    }
}

<?php

declare(strict_types=1);

namespace App\Metrics\Store;

use Fulcrion\Core\Metrics\HostProcess;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\ProcText;
use Fulcrion\Core\Settings\SettingText;

/**
 * The host this application runs on, read from its own /proc.
 */
final readonly class ThisHost
{
    /** The process whose limits count. */
    private const SERVER = 'mariadbd';

    /**
     * @param  string  $proc where it is
     * @param  list<string>  $folders whose file systems are looked at
     */
    public function __construct(private string $proc = '/proc', private array $folders = ['/'])
    {
    }

    public function name(): string
    {
        $name = gethostname();

        return $name === false || $name === '' ? 'this host' : mb_strcut($name, 0, 120);
    }

    /**
     * @return list<Metric> none where it is no Linux host
     */
    public function read(): array
    {
        $files = [];
        foreach (ProcText::FILES as $file) {
            $text = @file_get_contents("{$this->proc}/{$file}");
            if (is_string($text)) {
                $files[$file] = $text;
            }
        }

        return $files === [] ? [] : [...ProcText::read($files), ...$this->fileSystems()];
    }

    /**
     * How it is set, as its kernel has it.
     *
     * @return array<string, string|null> text by path; null where it cannot be read
     */
    public function settings(): array
    {
        $files = [];
        $paths = [...SettingText::VALUES, ...SettingText::CHOICES, SettingText::MOUNTS, ...(array) glob(SettingText::QUEUES, GLOB_BRACE)];
        foreach ($paths as $path) {
            if (is_string($path) && file_exists($path)) {
                $text = @file_get_contents($path);
                $files[$path] = $text === false ? null : $text;
            }
        }
        foreach ($this->processes() as $process) {
            if ($process->name === self::SERVER) {
                $text = @file_get_contents("{$this->proc}/{$process->pid}/limits");
                $files[SettingText::LIMITS] = $text === false ? null : $text;
            }
        }

        // By chrony, where it runs; else by the service of systemd.
        $tracking = (string) shell_exec('timeout 5 chronyc -n tracking 2>/dev/null');
        if (str_contains($tracking, SettingText::LEAP)) {
            $files[SettingText::SYNCHRONISED] = $tracking;
        } elseif (is_dir('/run/systemd/timesync')) {
            $files[SettingText::SYNCHRONISED] = file_exists('/run/systemd/timesync/synchronized') ? 'yes' : 'no';
        }

        return $files;
    }

    /**
     * @return array<int, HostProcess> by number
     */
    public function processes(): array
    {
        $processes = [];
        foreach ((array) @scandir($this->proc) as $name) {
            $stat = ctype_digit((string) $name) ? @file_get_contents("{$this->proc}/{$name}/stat") : false;
            $one = is_string($stat) ? ProcText::process($stat) : null;
            if ($one !== null) {
                $processes[$one->pid] = $one;
            }
        }

        return $processes;
    }

    /**
     * @return list<Metric>
     */
    private function fileSystems(): array
    {
        $metrics = [];
        foreach ($this->folders as $folder) {
            $size = @disk_total_space($folder);
            $free = @disk_free_space($folder);
            if ($size !== false && $free !== false && $size > 0) {
                array_push($metrics, ...ProcText::fileSystem($folder, $size, $free));
            }
        }

        return $metrics;
    }
}

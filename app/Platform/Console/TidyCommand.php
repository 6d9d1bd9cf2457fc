<?php

declare(strict_types=1);

namespace App\Platform\Console;

use App\Platform\Support\Clock;
use FilesystemIterator;
use Illuminate\Console\Command;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\File;
use RecursiveDirectoryIterator;
use RecursiveIteratorIterator;
use SplFileInfo;

/**
 * Forgets what was kept long enough: imports with what they set aside, failed jobs of the queue, files that were sent and
 * belong to nothing any more. Large logs are rotated.
 */
final class TidyCommand extends Command
{
    protected $signature = 'platform:tidy';

    protected $description = 'Deletes old imports, failed jobs, uploads and what was remembered, and rotates large logs';

    public const IMPORT_DAYS = 90;

    public const FAILED_JOB_DAYS = 30;

    public const UPLOAD_DAYS = 2;

    /** Bytes from which a log is rotated; of each, this many older ones are kept. */
    public const LOG_BYTES = 20_000_000;

    public const LOGS = 4;

    public function handle(): int
    {
        $now = Clock::now();
        $old = DB::table('imports')
            ->where('created_at', '<', $now->copy()->subDays(self::IMPORT_DAYS))
            ->whereNotIn('state', ['running', 'waiting'])
            ->pluck('id');
        foreach ($old->chunk(500) as $ids) {
            DB::table('rejected_records')->whereIn('import_id', $ids)->delete();
            DB::table('imports')->whereIn('id', $ids)->delete();
        }
        DB::table('failed_jobs')
            ->where('failed_at', '<', $now->copy()->subDays(self::FAILED_JOB_DAYS))
            ->delete();
        // What is over is only noticed by who asks for it again.
        DB::table('cache')->where('expiration', '<', Clock::seconds())->delete();
        $this->uploads();
        $this->remembered();
        foreach ([...File::glob(base_path('var/log/*.log')), ...File::glob(storage_path('logs/*.log'))] as $log) {
            $this->turn($log);
        }

        return self::SUCCESS;
    }

    private function uploads(): void
    {
        $wanted = array_flip(
            DB::table('imports')
                ->whereIn('state', ['mapping', 'waiting', 'running'])
                ->whereNotNull('path')
                ->pluck('path')
                ->all(),
        );
        foreach (File::glob(storage_path('app/uploads/*')) as $path) {
            if (is_file($path) && ! isset($wanted[$path]) && filemtime($path) < Clock::seconds() - self::UPLOAD_DAYS * 86_400) {
                @unlink($path);
            }
        }
    }

    /** The file store never removes what nobody asks for again; the first ten digits of each file say when it ends. */
    private function remembered(): void
    {
        $folder = (string) config('cache.stores.file.path');
        foreach (
            is_dir($folder) ? new RecursiveIteratorIterator(new RecursiveDirectoryIterator($folder,
                FilesystemIterator::SKIP_DOTS)) : [] as $file
        ) {
            if ($file instanceof SplFileInfo && (int) @file_get_contents($file->getPathname(), false, null, 0, 10) < Clock::seconds()) {
                @unlink($file->getPathname());
            }
        }
    }

    /** Copied and emptied: whoever writes it goes on writing at its end. */
    private function turn(string $log): void
    {
        if (! is_writable($log) || (int) filesize($log) < self::LOG_BYTES) {
            return;
        }
        for ($i = self::LOGS - 1; $i > 0; $i--) {
            @rename("{$log}.{$i}.gz", "{$log}.".($i + 1).'.gz');
        }
        $from = fopen($log, 'r+b');
        $to = gzopen("{$log}.1.gz.part", 'wb6');
        if ($from === false || $to === false) {
            return;
        }
        while (($piece = fread($from, 1 << 20)) !== false && $piece !== '') {
            gzwrite($to, $piece);
        }
        gzclose($to);
        ftruncate($from, 0);
        fclose($from);
        chmod("{$log}.1.gz.part", 0o640);
        rename("{$log}.1.gz.part", "{$log}.1.gz");
    }
}

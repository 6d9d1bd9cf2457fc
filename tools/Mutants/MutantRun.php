<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Mutants;

use Symfony\Component\Process\Exception\ProcessTimedOutException;
use Symfony\Component\Process\Process;

/**
 * Runs tests with one mistake put in place of the file it is in; the file itself is not touched.
 */
final readonly class MutantRun
{
    /**
     * @param  list<string>  $tests paths
     */
    public function __construct(private string $root, private array $tests, private float $limitSeconds = 60.0)
    {
    }

    /** Whether a test noticed: it failed, broke off or never ended. */
    public function isKilled(Mutant $mutant): bool
    {
        return $this->fails($mutant->in((string) file_get_contents("{$this->root}/{$mutant->path}")), $this->limitSeconds);
    }

    /** How long the tests take without any mistake; null where they fail by themselves. */
    public function seconds(): ?float
    {
        $started = hrtime(true);

        return $this->fails('<?php', 600.0) ? null : (hrtime(true) - $started) / 1e9;
    }

    private function fails(string $source, float $limitSeconds): bool
    {
        $directory = sys_get_temp_dir().'/fulcrion-mutant-'.bin2hex(random_bytes(4));
        mkdir($directory, 0o700);
        file_put_contents("{$directory}/file.php", $source);
        file_put_contents(
            "{$directory}/before.php",
            "<?php\nrequire ".var_export("{$this->root}/vendor/autoload.php", true).";\nrequire __DIR__.'/file.php';\n",
        );
        $command = [PHP_BINARY, '-d', 'memory_limit=1G', '-d', "auto_prepend_file={$directory}/before.php",
            "{$this->root}/vendor/bin/phpunit", '--configuration', "{$this->root}/phpunit.xml", '--no-progress',
            '--no-output', '--stop-on-defect', '--do-not-cache-result',
            ...$this->tests];
        $process = new Process($command, $this->root, null, null, $limitSeconds);
        try {
            return $process->run() !== 0;
        } catch (ProcessTimedOutException) {
            return true;
        } finally {
            @unlink("{$directory}/file.php");
            @unlink("{$directory}/before.php");
            @rmdir($directory);
        }
    }
}

<?php

declare(strict_types=1);

namespace Tests\Browser;

use Facebook\WebDriver\Chrome\ChromeOptions;
use Facebook\WebDriver\Remote\DesiredCapabilities;
use Facebook\WebDriver\Remote\RemoteWebDriver;
use Facebook\WebDriver\WebDriverDimension;
use Fulcrion\Tools\Loopback;
use RuntimeException;

/**
 * A headless Chromium with its own driver process and profile, both gone after stop().
 */
final class Chrome
{
    /**
     * @param  resource  $process
     */
    private function __construct(public readonly RemoteWebDriver $driver, private $process, private readonly string $profile)
    {
    }

    public static function start(int $width = 1280, int $height = 800): self
    {
        $port = Loopback::freePort();
        $process = proc_open(
            ['chromedriver', "--port={$port}", '--silent'],
            [['file', '/dev/null', 'r'], ['file', '/dev/null', 'w'], ['file', '/dev/null', 'w']],
            $pipes,
        );
        if ($process === false) {
            throw new RuntimeException('chromedriver does not start: install the Debian package chromium-driver.');
        }
        for ($i = 0; $i < 100 && @fsockopen('127.0.0.1', $port) === false; $i++) {
            usleep(100_000);
        }
        $profile = sys_get_temp_dir().'/fulcrion-chrome-'.bin2hex(random_bytes(4));
        $options = (new ChromeOptions())->addArguments([
            '--headless=new',
            '--no-sandbox',
            '--disable-gpu',
            '--disable-quic',
            '--no-first-run',
            '--disable-background-networking',
            '--disable-component-update',
            '--disable-sync',
            '--disable-dev-shm-usage',
            '--hide-scrollbars',
            "--user-data-dir={$profile}",
            "--window-size={$width},{$height}",
        ]);
        $options->setExperimentalOption('prefs', [
            'download.default_directory' => $profile.'-downloads',
            'download.prompt_for_download' => false,
        ]);
        $capabilities = DesiredCapabilities::chrome();
        $capabilities->setCapability(ChromeOptions::CAPABILITY, $options);
        $capabilities->setCapability('goog:loggingPrefs', ['browser' => 'ALL']);
        $driver = RemoteWebDriver::create("http://127.0.0.1:{$port}", $capabilities, 30_000, 150_000);
        // A long page is checked in one script; beside other tests that takes longer than the usual half a minute.
        $driver->manage()->timeouts()->setScriptTimeout(120);
        // The window's frame takes room from the page: ask for the page's own size.
        $inner = $driver->executeScript('return [window.innerWidth, window.innerHeight]');
        $driver->manage()->window()->setSize(new WebDriverDimension(2 * $width - (int) $inner[0], 2 * $height - (int) $inner[1]));

        return new self($driver, $process, $profile);
    }

    /** Opens a page and waits until fonts and late parts are there. */
    public function open(string $url): void
    {
        $this->driver->get($url);
        $this->settle();
    }

    public function settle(): void
    {
        for ($i = 0; $i < 150; $i++) {
            $ready = $this->driver->executeScript(
                'return document.readyState === "complete" && document.fonts.status === "loaded" && document.querySelector(".late, '
                    .'.htmx-request") === null',
            );
            if ($ready === true) {
                return;
            }
            usleep(100_000);
        }
    }

    public function downloads(): string
    {
        return $this->profile.'-downloads';
    }

    public function stop(): void
    {
        try {
            $this->driver->quit();
        } finally {
            proc_terminate($this->process);
            proc_close($this->process);
            exec('rm -rf '.escapeshellarg($this->profile).' '.escapeshellarg($this->profile.'-downloads'));
        }
    }
}

/** Sends the chosen file with progress and a way to stop; without script the form works as it stands. */
export function upload() {
    return {
        percent: 0,
        sending: false,
        failed: '',
        request: null,
        get idle() { return !this.sending; },
        get said() { return `${this.percent}% sent`; },
        send(event) {
            const form = event.target;
            event.preventDefault();
            this.request = new XMLHttpRequest();
            this.request.upload.onprogress = (step) => { this.percent = Math.round((100 * step.loaded) / step.total); };
            this.request.onload = () => {
                if (this.request.status < 400) window.location = this.request.responseURL;
                else {
                    this.sending = false;
                    this.failed = this.request.status === 413
                        ? 'The file is larger than this server accepts. Compress it with gzip, or use the import command.'
                        : this.message();
                }
            };
            this.request.onerror = () => { this.sending = false;
                this.failed = 'The connection broke. Nothing was taken; send the file again.'; };
            this.request.open('POST', form.action);
            this.request.setRequestHeader('Accept', 'application/json');
            this.request.send(new FormData(form));
            this.sending = true;
            this.failed = '';
        },
        message() {
            try { return JSON.parse(this.request.responseText).message; } catch {
                return `The server refused the file (${this.request.status}).`; }
        },
        stop() { this.request?.abort(); this.sending = false; this.percent = 0; },
    };
}

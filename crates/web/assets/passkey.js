// Keys a device keeps: asks it to make one or for one it has, and sends what it says with the form.
(() => {
  for (const form of document.querySelectorAll('form[data-passkey]')) {
    const makes = form.dataset.passkey === 'create';
    const keys = window.PublicKeyCredential;
    const read = makes ? keys?.parseCreationOptionsFromJSON : keys?.parseRequestOptionsFromJSON;
    if (!read) {
      form.querySelector('[data-cannot]')?.removeAttribute('hidden');
      form.querySelectorAll('button').forEach((b) => { b.disabled = true; });
      continue;
    }
    form.hidden = false;
    const failed = form.querySelector('[data-failed]');
    form.addEventListener('submit', async (event) => {
      if (form.elements.credential.value) return;
      event.preventDefault();
      failed.hidden = true;
      try {
        const publicKey = read.call(keys, JSON.parse(form.dataset.options));
        const answer = await navigator.credentials[form.dataset.passkey]({ publicKey });
        form.elements.credential.value = JSON.stringify(answer.toJSON());
        form.requestSubmit(event.submitter);
      } catch {
        // The person said no, or the device has none: nothing is sent.
        failed.hidden = false;
      }
    });
  }
})();

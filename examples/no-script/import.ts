import 'aurelian-drift/elements';
